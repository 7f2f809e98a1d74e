import { z } from 'zod';
import { folded, pick, several, the } from '../operation/form';
import { movedWords, type FieldWords } from '../operation/moved';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type Fabric, type Zone } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { asActive } from '../fabric/compare';
import { devicesOf, fcDevices, type FcDevice } from '../fabric/devices';
import { memberText } from '../fabric/member';
import { draftFlag, draftList, draftText } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import {
  planned,
  refused,
  type Draft,
  type FieldForetold,
  type Foretold,
  type OperationType,
} from '../operation/operation';
import { SECOND } from '../units/duration';
import {
  draftFabric,
  fabricChoices,
  freeZoneName,
  memberChoices,
  namedChoices,
  readMembers,
  refuseUnclearSet,
  setFor,
} from './ask';

const base = z.object({ fabric: z.string(), name: z.string() });
const list = z.array(z.string());
const createSchema = base.extend({
  kind: z.enum(['ordinary', 'peer']).default('ordinary'),
  members: list.min(1, 'a zone has members').describe('Aliases, port names, or domain,port; of a peer zone the peers'),
  principals: list.default([]).describe('Of a peer zone: they reach every peer, peers do not reach each other'),
  zoneSet: z.string().optional().describe('Where it goes; without it into the one that is active'),
});
const configureSchema = base.extend({
  newName: z.string().optional(),
  kind: z.enum(['ordinary', 'peer']).optional(),
  members: list.optional(),
  principals: list.optional(),
});

const device = (fabric: Fabric) => ({ kind: 'fabric', id: fabric.id, name: `fabric ${fabric.name}` }) as const;
const LATER = 'Nothing moves until the zone set is activated.';

const kindField: FieldForetold = {
  choices: [
    { value: 'ordinary', label: 'Ordinary: all members meet' },
    { value: 'peer', label: 'Peer: principals meet peers' },
  ],
  suggested: 'ordinary',
};

/** Who would meet in a zone, in a few words. */
function widthWords(view: EstateView, fabric: Fabric, zone: Zone): string {
  const all = fcDevices(view);
  const active = asActive(view, zone);
  const found = new Map<string, FcDevice>();
  for (const member of [...active.members, ...active.principals])
    for (const one of devicesOf(view, fabric.id, member, () => all)) found.set(one.id, one);
  const initiators = [...found.values()].filter((one) => one.role === 'initiator').length;
  const targets = found.size - initiators;
  const wide = zone.kind === 'ordinary' && initiators > 1 ? ' More than one initiator: they disturb each other.' : '';
  return `${initiators} ${initiators === 1 ? 'initiator' : 'initiators'}, ${targets} ${targets === 1 ? 'target' : 'targets'} logged in.${wide}`;
}

export const createZone: OperationType<z.output<typeof createSchema>> = {
  kind: 'zone.create',
  verb: 'Make a zone',
  summary: 'Defines a zone and puts it into a zone set. It counts once that is activated.',
  schema: createSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      fabric: the.fabric,
      name: 'Zone',
      kind: 'Kind',
      members: several('Members'),
      principals: folded(several('Principals')),
      zoneSet: folded(pick('Zone set')),
    },
  },
  title: (p) => `Zone ${p.name} in fabric ${p.fabric}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const notes: string[] = [];
    const fabric = asks.find('fabric', p.fabric, 'fabric');
    const name = freeZoneName(view, asks, fabric, 'zone', p.name);
    const members = readMembers(view, asks, fabric, p.members, 'members', notes);
    const principals = readMembers(view, asks, fabric, p.principals, 'principals', notes);
    const set =
      fabric &&
      (p.zoneSet
        ? asks.find('zoneSet', p.zoneSet, 'zoneSet', { id: fabric.id, name: `Fabric ${fabric.name}` })
        : setFor(view, fabric));
    if (fabric && !p.zoneSet) refuseUnclearSet(view, asks, fabric, 'zoneSet');
    if (fabric && p.kind === 'peer' && principals.length === 0)
      asks.refuse({
        code: 'peer-without-principal',
        field: 'principals',
        subject: { kind: 'zone', name: p.name },
        message: 'A peer zone needs a principal that its peers reach.',
        mend: 'Name the array ports as principals.',
      });
    if (asks.refusals.length > 0 || !fabric || !name) return refused(asks.refusals);
    const zone = rowOf('zone', {
      id: context.newId('zone'),
      fabric: fabric.id,
      name,
      kind: p.kind,
      members,
      principals,
    });
    const effects: Effect[] = [created('zone', zone)];
    if (set) effects.push(changed('zoneSet', set, { zones: [...set.zones, zone.id] }));
    else
      effects.push(
        created(
          'zoneSet',
          rowOf('zoneSet', {
            id: context.newId('zoneSet'),
            fabric: fabric.id,
            name: `set_${fabric.name}`,
            zones: [zone.id],
          }),
        ),
      );
    return planned({
      device: device(fabric),
      title: `Zone ${name} into ${set?.name ?? `set_${fabric.name}`}: ${members.map(memberText).join(', ')}`,
      takes: SECOND,
      effects,
      notes: [...notes, LATER],
      next: [
        {
          label: `Activate in fabric ${fabric.name}`,
          do: 'zone-set.activate',
          params: { fabric: fabric.name, zoneSet: set?.name ?? `set_${fabric.name}` },
        },
      ],
    });
  },
  foretell: (view, draft) => ({ fields: fieldsOf(view, draft, null, true) }),
};

function fieldsOf(view: EstateView, draft: Draft, present: Zone | null, makes: boolean): Foretold['fields'] {
  const fabric = draftFabric(view, draft);
  const fields: Foretold['fields'] = {
    fabric: { choices: fabricChoices(view) },
    name: { says: 'Whom it joins, so that others can read it.' },
    kind: { ...kindField, ...(present ? { suggested: present.kind } : {}) },
    members: { choices: memberChoices(view, fabric) },
    principals: {
      choices: memberChoices(view, fabric),
      says: draftText(draft, 'kind') === 'peer' ? 'They reach every peer.' : 'Only of a peer zone.',
    },
    ...(makes ? { zoneSet: { choices: namedChoices(view, 'zoneSet', fabric) } } : {}),
  };
  if (!fabric) return fields;
  const set = setFor(view, fabric);
  if (fields.zoneSet) {
    if (set) fields.zoneSet.suggested = set.name;
    fields.zoneSet.says = set ? `${set.zones.length} zones in it.` : 'A first one is made.';
  }
  const asks = inquire(view);
  const members = readMembers(view, asks, fabric, draftList(draft, 'members'), 'members', []);
  const principals = readMembers(view, asks, fabric, draftList(draft, 'principals'), 'principals', []);
  fields.members!.says =
    members.length === 0
      ? 'One initiator, and the ports it shall reach.'
      : widthWords(
          view,
          fabric,
          rowOf('zone', {
            id: '',
            fabric: fabric.id,
            name: '',
            members,
            principals,
            kind: draftText(draft, 'kind') === 'peer' ? 'peer' : 'ordinary',
          }),
        );
  return fields;
}

const zoneWords: FieldWords<Zone> = {
  name: (name) => `is called ${name}`,
  kind: (kind) => (kind === 'peer' ? 'is a peer zone' : 'is a plain zone'),
  principals: (principals) => `principals ${principals.map(memberText).join(', ') || 'none'}`,
  members: (members) => `members ${members.map(memberText).join(', ') || 'none'}`,
};

export const zoneConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'zone.configure',
  verb: 'Change a zone',
  summary: 'Gives a defined zone another name, kind or other members. It counts once its zone set is activated.',
  schema: configureSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      fabric: the.fabric,
      name: pick('Zone'),
      newName: 'New name',
      kind: 'Kind',
      members: 'Members',
      principals: folded('Principals'),
    },
  },
  title: (p) => `Change zone ${p.name} in fabric ${p.fabric}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const notes: string[] = [];
    const fabric = asks.find('fabric', p.fabric, 'fabric');
    const zone = fabric && asks.find('zone', p.name, 'name', { id: fabric.id, name: `Fabric ${fabric.name}` });
    const newName =
      p.newName && p.newName !== p.name
        ? freeZoneName(view, asks, fabric, 'zone', p.newName, 'newName', zone)
        : undefined;
    const members = p.members ? readMembers(view, asks, fabric, p.members, 'members', notes) : undefined;
    const principals = p.principals ? readMembers(view, asks, fabric, p.principals, 'principals', notes) : undefined;
    if (asks.refusals.length > 0 || !fabric || !zone) return refused(asks.refusals);
    const after: Zone = {
      ...zone,
      name: newName ?? zone.name,
      kind: p.kind ?? zone.kind,
      members: members ?? zone.members,
      principals: principals ?? zone.principals,
    };
    const set = setFor(view, fabric);
    return planned({
      device: device(fabric),
      title: `Zone ${zone.name}: ${movedWords(zone, after, zoneWords)}`,
      takes: SECOND,
      effects: [changed('zone', zone, after)],
      notes: [...notes, LATER],
      next: set
        ? [
            {
              label: `Activate in fabric ${fabric.name}`,
              do: 'zone-set.activate',
              params: { fabric: fabric.name, zoneSet: set.name },
            },
          ]
        : [],
    });
  },
  foretell(view, draft) {
    const fabric = draftFabric(view, draft);
    const zone = fabric && lookUp(view, 'zone', draftText(draft, 'name'), fabric.id);
    const fields = fieldsOf(
      view,
      zone && !draft.members ? { ...draft, members: zone.members, kind: draft.kind ?? zone.kind } : draft,
      zone ?? null,
      false,
    );
    fields.name = { choices: namedChoices(view, 'zone', fabric) };
    fields.newName = {};
    if (zone) {
      fields.members!.suggested = zone.members.map(memberText);
      fields.principals!.suggested = zone.principals.map(memberText);
    }
    return { fields };
  },
};

const deleteSchema = base.extend({
  aliases: z.boolean().default(false).describe('Drop the aliases that nothing else uses, too'),
});

export const zoneDelete: OperationType<z.output<typeof deleteSchema>> = {
  kind: 'zone.delete',
  verb: 'Drop a zone',
  summary: 'Takes a zone out of its zone sets and off the record. It stops counting once the zone set is activated.',
  schema: deleteSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      fabric: the.fabric,
      name: pick('Zone'),
      aliases: 'Its aliases too',
    },
  },
  title: (p) => `Drop zone ${p.name} in fabric ${p.fabric}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const fabric = asks.find('fabric', p.fabric, 'fabric');
    const zone = fabric && asks.find('zone', p.name, 'name', { id: fabric.id, name: `Fabric ${fabric.name}` });
    if (asks.refusals.length > 0 || !fabric || !zone) return refused(asks.refusals);
    const sets = view.table('zoneSet').by('zone', zone.id);
    const others = view
      .table('zone')
      .by('fabric', fabric.id)
      .filter((row) => row.id !== zone.id);
    const own = [...zone.members, ...zone.principals].filter(
      (member) =>
        member.startsWith('alias:') && !others.some((row) => [...row.members, ...row.principals].includes(member)),
    );
    const aliases = p.aliases
      ? view
          .table('alias')
          .by('fabric', fabric.id)
          .filter((alias) => own.includes(`alias:${alias.name}`))
      : [];
    const set = setFor(view, fabric);
    return planned({
      device: device(fabric),
      title: `Drop zone ${zone.name}${aliases.length > 0 ? ` and ${aliases.length} aliases` : ''}`,
      takes: SECOND,
      effects: [
        ...sets.map((row) => changed('zoneSet', row, { zones: row.zones.filter((id) => id !== zone.id) })),
        deleted('zone', zone),
        ...aliases.map((alias) => deleted('alias', alias)),
      ],
      notes: sets.length > 0 ? [LATER] : [],
      next: set
        ? [
            {
              label: `Activate in fabric ${fabric.name}`,
              do: 'zone-set.activate',
              params: { fabric: fabric.name, zoneSet: set.name },
            },
          ]
        : [],
    });
  },
  foretell(view, draft) {
    const fabric = draftFabric(view, draft);
    return {
      fields: {
        fabric: { choices: fabricChoices(view) },
        name: { choices: namedChoices(view, 'zone', fabric), says: LATER },
        aliases: { says: draftFlag(draft, 'aliases') ? 'Aliases that nothing else uses go as well.' : 'Aliases stay.' },
      },
    };
  },
};
