import { z } from 'zod';
import { pick, several, the } from '../operation/form';
import { changed, created, deleted } from '../estate/effects';
import { rowOf, type Fabric } from '../estate/entities';
import { draftList, draftText } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { counted } from '../units/counted';
import { SECOND } from '../units/duration';
import { draftFabric, fabricChoices, freeZoneName, namedChoices } from './ask';

const base = z.object({ fabric: z.string(), name: z.string() });
const setSchema = base.extend({ zones: z.array(z.string()).default([]) });
const device = (fabric: Fabric) => ({ kind: 'fabric', id: fabric.id, name: `fabric ${fabric.name}` }) as const;

export const zoneSetCreate: OperationType<z.output<typeof setSchema>> = {
  kind: 'zone-set.create',
  verb: 'Make a zone set',
  summary: 'Gathers defined zones under a name, ready to be activated.',
  schema: setSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      fabric: the.fabric,
      name: 'Zone set',
      zones: several('Zones'),
    },
  },
  title: (p) => `Zone set ${p.name} in fabric ${p.fabric}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const fabric = asks.find('fabric', p.fabric, 'fabric');
    const name = freeZoneName(view, asks, fabric, 'zoneSet', p.name);
    const zones = fabric
      ? p.zones.flatMap(
          (ref) => asks.find('zone', ref, 'zones', { id: fabric.id, name: `Fabric ${fabric.name}` })?.id ?? [],
        )
      : [];
    if (asks.refusals.length > 0 || !fabric || !name) return refused(asks.refusals);
    return planned({
      device: device(fabric),
      title: `Zone set ${name}: ${zones.length} zones`,
      takes: SECOND,
      effects: [
        created(
          'zoneSet',
          rowOf('zoneSet', { id: context.newId('zoneSet'), fabric: fabric.id, name, zones: [...new Set(zones)] }),
        ),
      ],
    });
  },
  foretell(view, draft) {
    const fabric = draftFabric(view, draft);
    return {
      fields: {
        fabric: { choices: fabricChoices(view) },
        name: {},
        zones: { choices: namedChoices(view, 'zone', fabric), says: `${draftList(draft, 'zones').length} chosen.` },
      },
    };
  },
};

/** What is not named stays as it is. */
const setChange = setSchema.extend({ zones: z.array(z.string()).optional() });

export const zoneSetConfigure: OperationType<z.output<typeof setChange>> = {
  kind: 'zone-set.configure',
  verb: 'Change a zone set',
  summary: 'Says which defined zones belong to a zone set. It counts once it is activated.',
  schema: setChange,
  form: {
    columns: [5, 6, 7],
    fields: {
      fabric: the.fabric,
      name: pick('Zone set'),
      zones: several('Zones'),
    },
  },
  title: (p) => `Change zone set ${p.name} in fabric ${p.fabric}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const fabric = asks.find('fabric', p.fabric, 'fabric');
    const scope = fabric && { id: fabric.id, name: `Fabric ${fabric.name}` };
    const set = scope && asks.find('zoneSet', p.name, 'name', scope);
    const zones = scope && p.zones?.flatMap((ref) => asks.find('zone', ref, 'zones', scope)?.id ?? []);
    if (asks.refusals.length > 0 || !fabric || !set) return refused(asks.refusals);
    const after = zones ? [...new Set(zones)] : set.zones;
    return planned({
      device: device(fabric),
      title: `Zone set ${set.name}: ${after.join() === set.zones.join() ? 'nothing changes' : `${counted(set.zones.length, 'zone')} → ${after.length}`}`,
      takes: SECOND,
      effects: [changed('zoneSet', set, { zones: after })],
      next: [
        {
          label: `Activate in fabric ${fabric.name}`,
          do: 'zone-set.activate',
          params: { fabric: fabric.name, zoneSet: set.name },
        },
      ],
    });
  },
  foretell(view, draft) {
    const fabric = draftFabric(view, draft);
    const fields: Foretold['fields'] = {
      fabric: { choices: fabricChoices(view) },
      name: { choices: namedChoices(view, 'zoneSet', fabric) },
      zones: { choices: namedChoices(view, 'zone', fabric) },
    };
    const set = fabric && lookUp(view, 'zoneSet', draftText(draft, 'name'), fabric.id);
    if (set) {
      fields.zones!.suggested = set.zones.flatMap((id) => view.table('zone').get(id)?.name ?? []);
      fields.zones!.says = 'Counts once it is activated.';
    }
    return { fields };
  },
};

export const zoneSetDelete: OperationType<z.output<typeof base>> = {
  kind: 'zone-set.delete',
  verb: 'Drop a zone set',
  summary: 'Takes a zone set off the record; its zones stay. Refused for the active one.',
  schema: base,
  form: {
    columns: [5, 6, 7],
    fields: {
      fabric: the.fabric,
      name: pick('Zone set'),
    },
  },
  title: (p) => `Drop zone set ${p.name} in fabric ${p.fabric}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const fabric = asks.find('fabric', p.fabric, 'fabric');
    const set = fabric && asks.find('zoneSet', p.name, 'name', { id: fabric.id, name: `Fabric ${fabric.name}` });
    if (fabric && set && set.name === fabric.activeSet)
      asks.refuse({
        code: 'zone-set-active',
        field: 'name',
        subject: subjectOf('zoneSet', set),
        message: `${set.name} is active in fabric ${fabric.name}.`,
        mend: 'Activate another one first.',
      });
    if (asks.refusals.length > 0 || !fabric || !set) return refused(asks.refusals);
    return planned({
      device: device(fabric),
      title: `Drop zone set ${set.name}`,
      takes: SECOND,
      effects: [deleted('zoneSet', set)],
    });
  },
  foretell(view, draft) {
    const fabric = draftFabric(view, draft);
    return {
      fields: {
        fabric: { choices: fabricChoices(view) },
        name: { choices: namedChoices(view, 'zoneSet', fabric), says: 'Its zones stay.' },
      },
    };
  },
};
