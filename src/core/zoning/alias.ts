import { z } from 'zod';
import { pick, several, the } from '../operation/form';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type Alias, type Fabric } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { memberText } from '../fabric/member';
import { draftList, draftText } from '../operation/draft';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { movedWords, type FieldWords } from '../operation/moved';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { draftFabric, fabricChoices, freeZoneName, memberChoices, namedChoices, readMembers } from './ask';

const base = z.object({ fabric: z.string(), name: z.string() });
const members = z.array(z.string()).describe('Port names in any spelling, or domain,port');
const createSchema = base.extend({ members: members.min(1, 'an alias stands for at least one port') });
const configureSchema = base.extend({ newName: z.string().optional(), members: members.optional() });

const fabricDevice = (fabric: Fabric) => ({ kind: 'fabric', id: fabric.id, name: `fabric ${fabric.name}` }) as const;

/** An alias of the fabric by name. */
export const askAlias = (
  view: EstateView,
  asks: Inquiry,
  fabric: Fabric | undefined,
  name: string,
): Alias | undefined => fabric && asks.find('alias', name, 'name', { id: fabric.id, name: `Fabric ${fabric.name}` });

export const aliasCreate: OperationType<z.output<typeof createSchema>> = {
  kind: 'alias.create',
  verb: 'Name a port',
  summary: 'Gives one or more ports of a fabric a name that zones can use.',
  schema: createSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      fabric: the.fabric,
      name: 'Alias',
      members: several('Ports'),
    },
  },
  title: (p) => `Alias ${p.name} in fabric ${p.fabric}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const notes: string[] = [];
    const fabric = asks.find('fabric', p.fabric, 'fabric');
    const name = freeZoneName(view, asks, fabric, 'alias', p.name);
    const read = readMembers(view, asks, fabric, p.members, 'members', notes, true);
    if (asks.refusals.length > 0 || !fabric || !name) return refused(asks.refusals);
    return planned({
      device: fabricDevice(fabric),
      title: `Alias ${name}: ${read.map(memberText).join(', ')}`,
      takes: SECOND,
      effects: [
        created('alias', rowOf('alias', { id: context.newId('alias'), fabric: fabric.id, name, members: read })),
      ],
      notes,
    });
  },
  foretell(view, draft) {
    const fabric = draftFabric(view, draft);
    const fields: Foretold['fields'] = {
      fabric: { choices: fabricChoices(view) },
      name: { says: 'Letters, digits, $ - ^ _; a letter first.' },
      members: { choices: memberChoices(view, fabric, false) },
    };
    const count = draftList(draft, 'members').length;
    fields.members!.says =
      count === 0
        ? 'Which port it stands for.'
        : `Zones that use it name ${count === 1 ? 'this port' : `these ${count} ports`}.`;
    return { fields };
  },
};

const aliasWords: FieldWords<Alias> = {
  name: (name) => `is called ${name}`,
  members: (members) => members.map(memberText).join(', ') || 'no member',
};

export const aliasConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'alias.configure',
  verb: 'Change an alias',
  summary: 'Gives an alias another name or other ports. Switches enforce it from the next activation on.',
  schema: configureSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      fabric: the.fabric,
      name: pick('Alias'),
      newName: 'New name',
      members: 'Ports',
    },
  },
  title: (p) => `Change alias ${p.name} in fabric ${p.fabric}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const notes: string[] = [];
    const fabric = asks.find('fabric', p.fabric, 'fabric');
    const alias = askAlias(view, asks, fabric, p.name);
    const newName =
      p.newName && p.newName !== p.name
        ? freeZoneName(view, asks, fabric, 'alias', p.newName, 'newName', alias)
        : undefined;
    const read = p.members ? readMembers(view, asks, fabric, p.members, 'members', notes, true) : undefined;
    if (asks.refusals.length > 0 || !fabric || !alias) return refused(asks.refusals);
    const after: Alias = { ...alias, name: newName ?? alias.name, members: read ?? alias.members };
    const effects: Effect[] = [changed('alias', alias, after)];
    const old = `alias:${alias.name}`;
    const users = usersOf(view, alias);
    if (newName)
      for (const zone of users) {
        const renamed = (list: readonly string[]) =>
          list.map((member) => (member === old ? `alias:${newName}` : member));
        effects.push(changed('zone', zone, { members: renamed(zone.members), principals: renamed(zone.principals) }));
      }
    if (users.length > 0 && read)
      notes.push(
        `${users.length} ${users.length === 1 ? 'zone uses' : 'zones use'} it; activate the zone set for it to count.`,
      );
    return planned({
      device: fabricDevice(fabric),
      title: `Alias ${alias.name}: ${movedWords(alias, after, aliasWords)}`,
      takes: SECOND,
      effects,
      notes,
    });
  },
  foretell(view, draft) {
    const fabric = draftFabric(view, draft);
    const fields: Foretold['fields'] = {
      fabric: { choices: fabricChoices(view) },
      name: { choices: namedChoices(view, 'alias', fabric) },
      newName: {},
      members: { choices: memberChoices(view, fabric, false) },
    };
    const alias = fabric && lookUp(view, 'alias', draftText(draft, 'name'), fabric.id);
    if (!alias) return { fields };
    fields.name!.says = `${usersOf(view, alias).length} zones use it.`;
    fields.members!.suggested = alias.members.map(memberText);
    fields.members!.says = 'Counts from the next activation on.';
    return { fields };
  },
};

const usersOf = (view: EstateView, alias: Alias) =>
  view
    .table('zone')
    .by('fabric', alias.fabric)
    .filter((zone) => [...zone.members, ...zone.principals].includes(`alias:${alias.name}`));

export const aliasDelete: OperationType<z.output<typeof base>> = {
  kind: 'alias.delete',
  verb: 'Drop an alias',
  summary: 'Takes an alias away. Refused while a zone uses it.',
  schema: base,
  form: {
    columns: [5, 6, 7],
    fields: {
      fabric: the.fabric,
      name: pick('Alias'),
    },
  },
  title: (p) => `Drop alias ${p.name} in fabric ${p.fabric}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const fabric = asks.find('fabric', p.fabric, 'fabric');
    const alias = askAlias(view, asks, fabric, p.name);
    const users = alias ? usersOf(view, alias) : [];
    if (alias && users.length > 0)
      asks.refuse({
        code: 'alias-in-use',
        field: 'name',
        subject: subjectOf('alias', alias),
        message: `${alias.name} is used by ${users
          .map((zone) => zone.name)
          .slice(0, 5)
          .join(', ')}.`,
        mend: 'Take it out of those zones first.',
      });
    if (asks.refusals.length > 0 || !fabric || !alias) return refused(asks.refusals);
    return planned({
      device: fabricDevice(fabric),
      title: `Drop alias ${alias.name}`,
      takes: SECOND,
      effects: [deleted('alias', alias)],
    });
  },
  foretell(view, draft) {
    const fabric = draftFabric(view, draft);
    return {
      fields: {
        fabric: { choices: fabricChoices(view) },
        name: { choices: namedChoices(view, 'alias', fabric), says: 'Only one that no zone uses.' },
      },
    };
  },
};
