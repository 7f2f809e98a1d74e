import { z } from 'zod';
import { folded, pick, the } from '../operation/form';
import { changed } from '../estate/effects';
import { mediaClasses, type Volume } from '../estate/entities';
import { byName, draftText } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { mediaFigures } from '../raid/media';
import { SECOND } from '../units/duration';
import { askVolume, volumeFields } from './ask';
import { someOf } from '../units/counted';
import { ownerOf, workloadOf } from '../estate/relations';

const schema = z.object({
  array: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one volume'),
  newName: z.string().optional().describe('Of one volume'),
  owner: z.string().optional().describe('Controller'),
  workload: z.string().optional().describe('Its workload, or none'),
  notes: z.string().max(1000).optional(),
  reduction: flag.optional(),
  tier: z.union([z.enum(mediaClasses), z.literal('fastest')]).optional(),
  reclaimDays: z.coerce
    .number()
    .int()
    .min(0)
    .max(365)
    .optional()
    .describe('Days between reclaims by schedule; 0 for none'),
  boot: flag.optional().describe('Hosts start from it'),
});
type Params = z.output<typeof schema>;

export const volumeConfigure: OperationType<Params> = {
  kind: 'volume.configure',
  verb: 'Change volumes',
  summary:
    'Renames a volume, moves volumes between controllers, puts them into a workload, sets reduction, tier, reclaim and notes.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      volumes: the.volumes,
      newName: 'New name',
      workload: pick('Workload'),
      owner: pick('Owner'),
      tier: pick('Starts on'),
      reduction: pick('Reduction'),
      reclaimDays: 'Reclaim every, days',
      notes: 'Notes',
      boot: folded(pick('Boot volume')),
    },
  },
  title: (p) => `Change ${someOf(p.volumes)} on ${p.array}`,
  units: (p) => p.volumes.map((volume) => ({ ...p, volumes: [volume] })),
  check: (_view, p) =>
    p.newName && p.volumes.length > 1
      ? [
          {
            code: 'one-name-many-volumes',
            field: 'newName',
            subject: { kind: 'volume', name: p.newName },
            message: `${p.volumes.length} volumes cannot all be called ${p.newName}.`,
            mend: 'Rename one at a time.',
          },
        ]
      : [],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const volume = askVolume(asks, array, p.volumes[0]!);
    if (!array || !volume) return refused(asks.refusals);
    const fields: Partial<Volume> = {};
    const said: string[] = [];
    if (p.newName && p.newName !== volume.name) {
      fields.name = asks.freeName('volume', p.newName, array, 'newName', volume) ?? volume.name;
      said.push(`is called ${fields.name}`);
    }
    const owner = p.owner ? asks.find('controller', p.owner, 'owner', array) : undefined;
    if (owner && owner.id !== volume.owner) {
      fields.owner = owner.id;
      said.push(`is owned by controller ${owner.name}`);
    }
    if (owner?.state === 'down')
      asks.refuse({
        code: 'controller-down',
        field: 'owner',
        subject: { kind: 'controller', id: owner.id, name: owner.name },
        message: `Controller ${owner.name} is down.`,
        mend: 'Choose its partner, or bring it up first.',
      });
    if (p.workload !== undefined) {
      const none = p.workload === '' || p.workload === 'none';
      const workload = none ? null : asks.find('workload', p.workload, 'workload');
      if (workload !== undefined && (workload?.id ?? null) !== volume.workload) {
        fields.workload = workload?.id ?? null;
        said.push(workload ? `belongs to ${workload.name}` : 'belongs to no workload');
      }
    }
    if (p.notes !== undefined && p.notes !== volume.notes) {
      fields.notes = p.notes;
      said.push('has other notes');
    }
    if (p.reduction !== undefined && p.reduction !== volume.reduction) {
      fields.reduction = p.reduction;
      said.push(p.reduction ? 'takes part in reduction' : 'is left out of reduction');
    }
    const tier = p.tier === 'fastest' ? null : p.tier;
    if (tier !== undefined && tier !== volume.tier) {
      fields.tier = tier;
      said.push(`starts on ${tier ? mediaFigures[tier].label : 'the fastest tier'}`);
    }
    if (p.reclaimDays !== undefined && p.reclaimDays !== volume.reclaimDays) {
      fields.reclaimDays = p.reclaimDays;
      said.push(p.reclaimDays === 0 ? 'is not reclaimed by schedule' : `is reclaimed every ${p.reclaimDays} days`);
    }
    if (p.boot !== undefined && p.boot !== volume.boot) {
      fields.boot = p.boot;
      said.push(p.boot ? 'is one that hosts start from' : 'is none that hosts start from');
    }
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${volume.name} ${said.join(', ') || 'stays as it is'}`,
      takes: 2 * SECOND,
      effects: said.length > 0 ? [changed('volume', volume, fields)] : [],
      notes: fields.reduction === false ? ['What is reduced already stays so until it is written again.'] : [],
    });
  },
  foretell(view, draft) {
    const { fields, array, volumes } = volumeFields(view, draft, (volume) =>
      volume.deletedAt === null ? undefined : 'is retired',
    );
    const [first] = volumes;
    fields.newName = {
      says:
        volumes.length > 1
          ? 'Only for one volume at a time.'
          : 'Left empty, the name stays. Its identity stays in any case.',
    };
    fields.notes = { says: 'For those who come after.' };
    fields.reclaimDays = { says: 'Days between reclaims by schedule; 0 for none.' };
    fields.workload = {
      choices: [
        { value: '', label: 'As it is' },
        { value: 'none', label: 'None' },
        ...[...view.table('workload').values()].sort(byName).map((row) => ({ value: row.name, label: row.name })),
      ],
    };
    fields.tier = {
      choices: [
        { value: '', label: 'As it is' },
        { value: 'fastest', label: 'The fastest' },
        ...mediaClasses.map((value) => ({ value, label: mediaFigures[value].label })),
      ],
      says: 'Where new extents go; what is placed stays.',
    };
    fields.reduction = {
      choices: [
        { value: '', label: 'As it is' },
        { value: 'true', label: 'Takes part' },
        { value: 'false', label: 'Left out' },
      ],
    };
    fields.boot = {
      choices: [
        { value: '', label: 'As it is' },
        { value: 'true', label: 'Hosts start from it' },
        { value: 'false', label: 'No' },
      ],
      says: 'It should be the lowest LUN a host sees; a finding tells when it is not.',
    };
    if (!array) return { fields };
    const owned = first ? `Controller ${ownerOf(view, first).name} owns it now.` : '';
    fields.owner = {
      choices: [
        { value: '', label: 'As it is' },
        ...[...view.table('controller').by('array', array.id)].sort(byName).map((row) => ({
          value: row.name,
          label: `Controller ${row.name}, owns ${view.table('volume').countBy('owner', row.id)}`,
          ...(row.state === 'down' ? { unfit: 'is down' } : {}),
        })),
      ],
      says: draftText(draft, 'owner') ? 'Its optimized paths move to that controller; hosts work on.' : owned,
    };
    if (first) {
      fields.reduction.says = first.reduction ? 'Takes part now.' : 'Left out now.';
      fields.workload.says = first.workload ? `In ${workloadOf(view, first)?.name} now.` : 'In none now.';
      fields.volumes!.says = first.notes ? `Notes: ${first.notes}` : '';
    }
    return { fields };
  },
};
