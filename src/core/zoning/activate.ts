import { z } from 'zod';
import { pick, the } from '../operation/form';
import { lossNotes, pathsAround, refuseCut } from '../attach/losses';
import type { Zone } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { compareZones } from '../fabric/compare';
import { notified, notifiedWords } from '../fabric/notified';
import { resolved } from '../fabric/member';
import { draftText } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, scratchContext, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { activation, mappingsOver } from './active';
import { draftFabric, fabricChoices, namedChoices, setFor } from './ask';

const schema = z.object({ fabric: z.string(), zoneSet: z.string() });
type Params = z.output<typeof schema>;

const zonesIn = (view: EstateView, ids: readonly string[]): Zone[] =>
  ids.flatMap((id) => view.table('zone').get(id) ?? []);

/** `2 zones come, 1 changes, none goes` */
function differenceWords(differences: ReturnType<typeof compareZones>): string {
  const count = (what: 'added' | 'changed' | 'removed') => differences.filter((one) => one.what === what).length;
  const parts = [
    [count('added'), 'come', 'comes'],
    [count('changed'), 'change', 'changes'],
    [count('removed'), 'go', 'goes'],
  ] as const;
  const said = parts
    .filter(([n]) => n > 0)
    .map(([n, many, one], k) => `${n}${k === 0 ? (n === 1 ? ' zone' : ' zones') : ''} ${n === 1 ? one : many}`);
  return said.length === 0 ? 'nothing differs' : said.join(', ');
}

export const zoneSetActivate: OperationType<Params> = {
  kind: 'zone-set.activate',
  verb: 'Activate a zone set',
  summary:
    'Makes a defined zone set the one the switches of a fabric enforce, in one step. Refused where it takes the last path of a mounted volume.',
  schema,
  form: {
    columns: [5, 6, 7],
    fields: {
      fabric: the.fabric,
      zoneSet: pick('Zone set'),
    },
  },
  title: (p) => `Activate ${p.zoneSet} in fabric ${p.fabric}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const fabric = asks.find('fabric', p.fabric, 'fabric');
    const set = fabric && asks.find('zoneSet', p.zoneSet, 'zoneSet', { id: fabric.id, name: `Fabric ${fabric.name}` });
    const zones = set ? zonesIn(view, set.zones) : [];
    if (fabric)
      for (const zone of zones) {
        const { undefinedAliases, emptyAliases } = resolved(view, fabric.id, [...zone.members, ...zone.principals]);
        const [alias] = [...undefinedAliases, ...emptyAliases];
        if (alias)
          asks.refuse({
            code: undefinedAliases.length > 0 ? 'alias-undefined' : 'alias-empty',
            field: 'zoneSet',
            subject: subjectOf('zone', zone),
            message:
              undefinedAliases.length > 0
                ? `${zone.name} names alias ${alias}, which is not there.`
                : `${zone.name} names alias ${alias}, which stands for no port.`,
            mend: 'Give the alias a port, or take it out of the zone.',
          });
      }
    if (set && zones.length === 0)
      asks.refuse({
        code: 'zone-set-empty',
        field: 'zoneSet',
        subject: subjectOf('zoneSet', set),
        message: `${set.name} holds no zone: nobody would meet anybody.`,
        mend: 'Put zones into it first.',
      });
    if (asks.refusals.length > 0 || !fabric || !set) return refused(asks.refusals);
    const differences = compareZones(view, set);
    const effects = activation(view, fabric, zones, set.name, context);
    const around = pathsAround(view, effects, mappingsOver(view, fabric.id));
    refuseCut(asks, around, subjectOf('zoneSet', set), 'zoneSet');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'fabric', id: fabric.id, name: `fabric ${fabric.name}` },
      title: `Activate ${set.name} in fabric ${fabric.name}: ${differenceWords(differences)}`,
      takes: 4 * SECOND,
      effects,
      notes: [...lossNotes(around), notifiedWords(notified(view, fabric.id, effects))].filter(Boolean),
    });
  },
  foretell(view, draft) {
    const fabric = draftFabric(view, draft);
    const fields: Foretold['fields'] = {
      fabric: { choices: fabricChoices(view) },
      zoneSet: { choices: namedChoices(view, 'zoneSet', fabric) },
    };
    if (!fabric) return { fields };
    const suggested = setFor(view, fabric);
    if (suggested) fields.zoneSet!.suggested = suggested.name;
    fields.fabric!.says = fabric.activeSet
      ? `${fabric.activeSet} is active, ${view.table('activeZone').countBy('fabric', fabric.id)} zones.`
      : 'No zone set is active.';
    const set = lookUp(view, 'zoneSet', draftText(draft, 'zoneSet'), fabric.id) ?? suggested;
    if (!set) return { fields };
    const around = pathsAround(
      view,
      activation(view, fabric, zonesIn(view, set.zones), set.name, scratchContext()),
      mappingsOver(view, fabric.id),
    );
    fields.zoneSet!.says = `${differenceWords(compareZones(view, set))}; paths ${around.before} → ${around.after}.`;
    return { fields };
  },
};
