import { z } from 'zod';
import { changed, created } from '../estate/effects';
import type { RaidGroup } from '../estate/entities';
import { arrayChoices, byName, draftArray, draftList, draftText, nextName } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { levelFigures } from '../raid/geometry';
import { groupHealth } from '../raid/health';
import { exactBytes, formatBytes, parseBytes, type Bytes } from '../units/bytes';
import { SECOND } from '../units/duration';
import { DEFAULT_EXTENT, MAX_EXTENT, MIN_EXTENT } from './choices';
import { extentsOf, reserveOf } from './usage';

const schema = z.object({
  array: z.string(),
  name: z.string(),
  raidGroups: z.array(z.string()),
  extentSize: z
    .string()
    .default(DEFAULT_EXTENT)
    .describe('What the pool gives out at a time: a power of two from 4 MiB to 1 GiB'),
});
type Params = z.output<typeof schema>;

function extentSizeFrom(text: string): Bytes | string {
  const size = parseBytes(text);
  if (!size.ok) return size.message;
  if (size.value >= MIN_EXTENT && size.value <= MAX_EXTENT && Number.isInteger(Math.log2(size.value)))
    return size.value;
  return `An extent of ${formatBytes(size.value)} cannot be used.`;
}

const stripe = (group: RaidGroup): Bytes => (group.usable / group.memberSize) * group.chunk;

export const poolCreate: OperationType<Params> = {
  kind: 'pool.create',
  verb: 'Make a pool',
  summary: 'Makes one capacity out of RAID groups, given out in extents.',
  schema,
  title: (p) => `Make pool ${p.name} on ${p.array} from ${p.raidGroups.join(', ')}`,
  units: (p) => [p],

  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const name = array && asks.freeName('pool', p.name, array);
    const extentSize = extentSizeFrom(p.extentSize);
    if (typeof extentSize === 'string')
      asks.refuse({
        code: 'extent-odd',
        field: 'extentSize',
        subject: { kind: 'pool', name: p.name },
        message: extentSize,
        mend: 'Choose a power of two from 4 MiB to 1 GiB, such as 64 MiB.',
      });
    const groups = array
      ? [...new Set(p.raidGroups)].flatMap((ref) => asks.find('raidGroup', ref, 'raidGroups', array) ?? [])
      : [];
    if (p.raidGroups.length === 0)
      asks.refuse({
        code: 'no-groups',
        field: 'raidGroups',
        subject: { kind: 'pool', name: p.name },
        message: 'A pool rests on at least one RAID group; none is chosen.',
        mend: 'Choose a RAID group, or carve one.',
      });
    for (const group of groups) {
      if (group.pool)
        asks.refuse({
          code: 'group-in-use',
          field: 'raidGroups',
          subject: subjectOf('raidGroup', group),
          message: `${group.name} carries pool ${view.table('pool').get(group.pool)?.name} already.`,
          mend: 'Choose a RAID group that carries nothing.',
        });
      if (groupHealth(view, group).state === 'lost')
        asks.refuse({
          code: 'raid-group-offline',
          field: 'raidGroups',
          subject: subjectOf('raidGroup', group),
          message: `${group.name} has lost more drives than it survives.`,
          mend: 'Retire it and carve another.',
        });
    }
    if (asks.refusals.length > 0 || !array || !name || typeof extentSize === 'string') return refused(asks.refusals);
    const extents = groups.reduce((sum, group) => sum + extentsOf(group.usable, extentSize), 0);
    const room = extents - reserveOf(extents);
    if (room < 1) {
      asks.refuse({
        code: 'pool-too-small',
        field: 'extentSize',
        subject: { kind: 'pool', name },
        message: `Of ${extents} extents nothing is left after the reserve.`,
        mend: 'Choose smaller extents or add a RAID group.',
      });
      return refused(asks.refusals);
    }
    const id = context.newId('pool');
    const weakest = Math.min(...groups.map((group) => groupHealth(view, group).tolerates));
    const notes: string[] = [];
    if (new Set(groups.map((group) => group.level)).size > 1)
      notes.push(
        `Levels differ: the pool is as safe as its weakest group, which survives ${weakest} lost ${weakest === 1 ? 'drive' : 'drives'}.`,
      );
    if (weakest === 0) notes.push('One lost drive loses the pool.');
    const straddling = groups.filter((group) => extentSize % stripe(group) !== 0);
    if (straddling.length > 0)
      notes.push(
        `Extents straddle the stripes of ${straddling.map((group) => group.name).join(', ')}: a power of two of data drives avoids that.`,
      );
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Make pool ${name}: ${formatBytes(room * extentSize)} to give out in extents of ${exactBytes(extentSize)}`,
      takes: 4 * SECOND,
      effects: [
        created('pool', { id, name, array: array.id, extentSize }),
        ...groups.map((group) => changed('raidGroup', group, { pool: id })),
      ],
      notes,
    });
  },

  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = {
      array: { choices: arrayChoices(view) },
      name: {},
      raidGroups: {},
      extentSize: {},
    };
    fields.extentSize!.choices = ['16 MiB', '32 MiB', '64 MiB', '128 MiB', '256 MiB', '512 MiB'].map((value) => ({
      value,
      label: value,
    }));
    fields.extentSize!.suggested = DEFAULT_EXTENT;
    if (!array) return { fields };
    fields.array!.says = `${view.table('raidGroup').countBy('array', array.id)} RAID groups, ${view.table('pool').countBy('array', array.id)} pools.`;
    fields.extentSize!.says = 'What is given out at a time. Small ones waste less, large ones are fewer.';
    fields.name!.suggested = nextName('pool', view.table('pool').by('array', array.id));
    fields.name!.says = `Unique on ${array.name}.`;
    const groups = [...view.table('raidGroup').by('array', array.id)].sort(byName);
    fields.raidGroups!.choices = groups.map((group) => ({
      value: group.name,
      label: `${group.name} ${levelFigures[group.level].label}, ${formatBytes(group.usable)}`,
      ...(group.pool ? { unfit: `carries pool ${view.table('pool').get(group.pool)?.name}` } : {}),
    }));
    const free = groups.filter((group) => !group.pool);
    fields.raidGroups!.suggested = free.length === 1 ? [free[0]!.name] : [];
    const chosen = draftList(draft, 'raidGroups').flatMap((ref) => lookUp(view, 'raidGroup', ref, array.id) ?? []);
    fields.raidGroups!.says =
      free.length === 0 ? 'No RAID group is free. Carve one first.' : `${free.length} carry no pool yet.`;
    const extentSize = extentSizeFrom(draftText(draft, 'extentSize') || DEFAULT_EXTENT);
    if (chosen.length > 0 && typeof extentSize === 'number') {
      const extents = chosen.reduce((sum, group) => sum + extentsOf(group.usable, extentSize), 0);
      const slack = chosen.reduce((sum, group) => sum + group.usable, 0) - extents * extentSize;
      const survives = Math.min(...chosen.map((group) => groupHealth(view, group).tolerates));
      fields.raidGroups!.says = `${formatBytes((extents - reserveOf(extents)) * extentSize)} to give out; survives ${survives} lost ${survives === 1 ? 'drive' : 'drives'} whichever they are.`;
      fields.extentSize!.says = `${extents.toLocaleString('en').replace(/,/g, '\u2009')} extents, ${formatBytes(reserveOf(extents) * extentSize, 'used')} of them in reserve for metadata${slack > 0 ? `; ${formatBytes(slack, 'used')} below one extent stay unused` : ''}.`;
    }
    return { fields };
  },
};
