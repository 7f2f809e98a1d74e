import { z } from 'zod';
import { pick, several, the } from '../operation/form';
import { changed, created } from '../estate/effects';
import { rowOf, type RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { arrayChoices, byName, draftArray, draftFlag, draftList, draftText, nextName } from '../operation/draft';
import { carriedWords } from '../raid/room';
import { realPools } from './direct';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { subjectOf } from '../operation/refusal';
import { levelFigures, survivesOf } from '../raid/geometry';
import { groupHealth } from '../raid/health';
import { exactBytes, formatBytes, parseBytes, type Bytes } from '../units/bytes';
import { SECOND } from '../units/duration';
import { DEFAULT_EXTENT, MAX_EXTENT, MIN_EXTENT, MOST_EXTENTS, RESERVE_PERCENT } from './choices';
import { checkPolicy, encryptionWords, policyFields, policyForm, policyForetold, policyShape } from './policy';
import { extentsOf, mediaOf, reserveOf } from './usage';
import { someOf } from '../units/counted';

const schema = z.object({
  array: z.string(),
  name: z.string(),
  raidGroups: z.array(z.string()),
  extentSize: z
    .string()
    .default(DEFAULT_EXTENT)
    .describe('What the pool gives out at a time: a power of two from 4 MiB to 1 GiB'),
  encryption: flag.default(false),
  ...policyShape,
});
type Params = z.output<typeof schema>;

function extentSizeFrom(text: string): Bytes | string {
  const size = parseBytes(text);
  if (!size.ok) return size.message;
  if (size.value >= MIN_EXTENT && size.value <= MAX_EXTENT && Number.isInteger(Math.log2(size.value)))
    return size.value;
  return `An extent of ${formatBytes(size.value)} cannot be used.`;
}

/** Bytes of data in a full stripe. */
export const fullStripe = (group: RaidGroup): Bytes =>
  group.chunk * (group.level === 'raid0' ? group.drives.length : group.data);

/** Groups that can carry a pool, or refusals. */
export function askFreeGroups(
  view: EstateView,
  asks: Inquiry,
  array: { id: string; name: string },
  refs: readonly string[],
): RaidGroup[] {
  const groups = [...new Set(refs)].flatMap((ref) => asks.find('raidGroup', ref, 'raidGroups', array) ?? []);
  for (const group of groups) {
    if (group.pool)
      asks.refuse({
        code: 'group-in-use',
        field: 'raidGroups',
        subject: subjectOf('raidGroup', group),
        message: poolOf(view, group)?.direct
          ? `${group.name} carries volumes straight, without a pool.`
          : `${group.name} carries pool ${poolOf(view, group)?.name} already.`,
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
  return groups;
}

/** The groups of an array to choose from; those that carry a pool cannot be chosen. */
export const groupChoices = (view: EstateView, array: string) =>
  [...view.table('raidGroup').by('array', array)].sort(byName).map((group) => ({
    value: group.name,
    label: `${group.name} ${levelFigures[group.level].label}, ${formatBytes(group.usable)}`,
    ...(group.pool ? { unfit: carriedWords(view, group) } : {}),
  }));

/** What an administrator should know of groups that work together. */
export function groupNotes(view: EstateView, groups: readonly RaidGroup[], extentSize: Bytes): string[] {
  const weakest = Math.min(...groups.map((group) => groupHealth(view, group).tolerates));
  const notes: string[] = [];
  if (new Set(groups.map((group) => group.level)).size > 1)
    notes.push(
      `Levels differ: the pool is as safe as its weakest group, which survives ${weakest} lost ${weakest === 1 ? 'drive' : 'drives'}.`,
    );
  if (weakest === 0) notes.push('One lost drive loses the pool.');
  if (new Set(groups.map((group) => mediaOf(view, group))).size > 1)
    notes.push('Media differ: they become tiers; new extents start on the fastest unless a volume says otherwise.');
  const straddling = groups.filter((group) => extentSize % fullStripe(group) !== 0);
  if (straddling.length > 0)
    notes.push(
      `Extents straddle the stripes of ${straddling.map((group) => group.name).join(', ')}: a power of two of data drives avoids that.`,
    );
  return notes;
}

export const poolCreate: OperationType<Params> = {
  kind: 'pool.create',
  verb: 'Make a pool',
  summary: 'Makes one capacity out of RAID groups, given out in extents.',
  schema,
  form: {
    columns: [1, 2, 3],
    fields: {
      array: the.array,
      raidGroups: several('RAID groups'),
      name: 'Name',
      extentSize: pick('Extent'),
      encryption: { label: 'Encryption', control: 'switch' },
      ...policyForm,
    },
  },
  title: (p) => `Make pool ${p.name} on ${p.array} from ${someOf(p.raidGroups)}`,
  units: (p) => [p],

  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const name = array && asks.freeName('pool', p.name, array);
    const subject = { kind: 'pool', name: p.name } as const;
    const extentSize = extentSizeFrom(p.extentSize);
    if (typeof extentSize === 'string')
      asks.refuse({
        code: 'extent-odd',
        field: 'extentSize',
        subject,
        message: extentSize,
        mend: 'Choose a power of two from 4 MiB to 1 GiB, such as 64 MiB.',
      });
    const groups = array ? askFreeGroups(view, asks, array, p.raidGroups) : [];
    if (p.raidGroups.length === 0)
      asks.refuse({
        code: 'no-groups',
        field: 'raidGroups',
        subject,
        message: 'A pool rests on at least one RAID group; none is chosen.',
        mend: 'Choose a RAID group, or carve one.',
      });
    const policy = policyFields(p);
    checkPolicy(asks, subject, { notice: 70, urgent: 90, ...policy });
    if (asks.refusals.length > 0 || !array || !name || typeof extentSize === 'string') return refused(asks.refusals);
    const extents = groups.reduce((sum, group) => sum + extentsOf(group.usable, extentSize), 0);
    const room = extents - reserveOf(extents, p.reserve);
    if (room < 1 || extents > MOST_EXTENTS) {
      asks.refuse({
        code: room < 1 ? 'pool-too-small' : 'pool-too-large',
        field: 'extentSize',
        subject,
        message:
          room < 1
            ? `Of ${extents} extents nothing is left after the reserve.`
            : `${extents} extents are more than a pool's map takes, ${MOST_EXTENTS}.`,
        mend: room < 1 ? 'Choose smaller extents or add a RAID group.' : 'Choose larger extents.',
      });
      return refused(asks.refusals);
    }
    const id = context.newId('pool');
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Make pool ${name}: ${formatBytes(room * extentSize)} to give out in extents of ${exactBytes(extentSize)}`,
      takes: 4 * SECOND,
      effects: [
        created('pool', rowOf('pool', { id, name, array: array.id, extentSize, encryption: p.encryption, ...policy })),
        ...groups.map((group) => changed('raidGroup', group, { pool: id })),
      ],
      notes: groupNotes(view, groups, extentSize),
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
    fields.extentSize!.choices = ['16 MiB', '32 MiB', '64 MiB', '128 MiB', '256 MiB', '512 MiB', '1 GiB'].map(
      (value) => ({ value, label: value }),
    );
    fields.extentSize!.suggested = DEFAULT_EXTENT;
    fields.encryption = { says: encryptionWords(draftFlag(draft, 'encryption')) };
    if (!array) return { fields: { ...fields, ...policyForetold(draft, 0, null) } };
    fields.array!.says = `${view.table('raidGroup').countBy('array', array.id)} RAID groups, ${realPools(view, array.id).length} pools.`;
    fields.extentSize!.says = 'What is given out at a time. Small ones waste less, large ones are fewer.';
    fields.name!.suggested = nextName('pool', realPools(view, array.id));
    fields.name!.says = `Unique on ${array.name}.`;
    fields.raidGroups!.choices = groupChoices(view, array.id);
    const free = view
      .table('raidGroup')
      .by('array', array.id)
      .filter((group) => !group.pool);
    fields.raidGroups!.suggested = free.length === 1 ? [free[0]!.name] : [];
    const chosen = draftList(draft, 'raidGroups').flatMap((ref) => lookUp(view, 'raidGroup', ref, array.id) ?? []);
    fields.raidGroups!.says =
      free.length === 0 ? 'No RAID group is free. Carve one first.' : `${free.length} carry no pool yet.`;
    const extentSize = extentSizeFrom(draftText(draft, 'extentSize') || DEFAULT_EXTENT);
    let size = 0;
    if (chosen.length > 0 && typeof extentSize === 'number') {
      const extents = chosen.reduce((sum, group) => sum + extentsOf(group.usable, extentSize), 0);
      size = extents * extentSize;
      const percent = Number(draftText(draft, 'reserve')) || RESERVE_PERCENT;
      const reserve = reserveOf(extents, percent);
      const slack = chosen.reduce((sum, group) => sum + group.usable, 0) - size;
      const survives = Math.min(...chosen.map(survivesOf));
      fields.raidGroups!.says = `${formatBytes((extents - reserve) * extentSize)} to give out; survives ${survives} lost ${survives === 1 ? 'drive' : 'drives'} whichever they are.`;
      fields.extentSize!.says = `${extents.toLocaleString('en').replace(/,/g, '\u2009')} extents, ${formatBytes(reserve * extentSize, 'used')} of them in reserve${slack > 0 ? `; ${formatBytes(slack, 'used')} below one extent stay unused` : ''}. The pool can grow to ${formatBytes(MOST_EXTENTS * extentSize)}.`;
    }
    return { fields: { ...fields, ...policyForetold(draft, size, null) } };
  },
};
