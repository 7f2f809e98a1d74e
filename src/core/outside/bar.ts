import type { Effect } from '../estate/effects';
import type { ArrayRow, Kind, OutsideLun } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { nextStep } from '../operation/next-step';
import { subjectOf, type Refusal } from '../operation/refusal';

/** Kinds of rows of which none is made on an outside array. */
const carved: readonly Kind[] = ['raidGroup', 'pool', 'volume', 'drive', 'enclosure'];
/** What a LUN and the volume in front of it must agree on. */
const agreed = { size: 'its size is that of the LUN', provisioning: 'it is one to one with the LUN' } as const;

/** Fields of a drive that only a LUN's own operations change where it is one. */
const worn = ['spare', 'raidGroup', 'serial', 'state', 'capacity', 'holdsData'] as const;

/**
 * What effects of an operation would harm of outside arrays and of LUNs that stand behind others; empty where nothing. `undoes` are the
 * effects of the step that they take back, if they do: what it took away from an outside array may return to it.
 */
export function barredByOutside(
  view: EstateView,
  effects: readonly Effect[],
  undoes: readonly Effect[] = [],
): Refusal[] {
  const known = view.table('outsideLun');
  const outsides = new Map<string, ArrayRow>();
  for (const array of view.table('array').values()) if (array.outside) outsides.set(array.id, array);
  if (known.size === 0 && outsides.size === 0) return [];
  const own = new Set(effects.flatMap(({ kind, id, after }) => (kind === 'outsideLun' && after ? [id] : [])));
  const taken = new Set(undoes.flatMap(({ id, after }) => (after ? [] : [id])));
  const found = new Map<string, Refusal>();
  const bar = (row: OutsideLun | undefined, message: (row: OutsideLun) => string) => {
    if (!row || own.has(row.id) || found.has(row.id)) return;
    const array = view.table('array').get(row.array)!.name;
    found.set(row.id, {
      code: 'outside-lun-in-use',
      subject: subjectOf('outsideLun', row),
      message: message(row),
      mend:
        row.state === 'member'
          ? `Let ${row.name} go first.`
          : `Give ${row.name} back first, or move its data in and let it go.`,
      offer:
        row.state === 'member'
          ? nextStep(`Let ${row.name} go`, 'outside.release', { array, luns: [row.name] })
          : nextStep(`Give ${row.name} back`, 'outside.give-back', { array, luns: [row.name] }),
    });
  };
  const never = (array: ArrayRow, message: string) => {
    if (!found.has(array.id))
      found.set(array.id, {
        code: 'array-outside',
        subject: subjectOf('array', array),
        message,
        mend: 'Move its volumes to another array, or take its LUNs behind one.',
      });
  };
  const behind = (volume: string): OutsideLun | undefined =>
    known.by('volume', volume).find((row) => row.state === 'fenced' || row.drive !== null);
  const nameOf = (row: OutsideLun) => view.table('array').get(row.array)!.name;
  for (const { kind, id, before, after } of effects) {
    if (after && !before && carved.includes(kind) && !taken.has(id)) {
      const outside = outsides.get((after as { array: string }).array);
      if (outside) never(outside, `${outside.name} is an outside array: nothing is carved on it from here.`);
    }
    if (kind === 'replication' && after && !before)
      for (const volume of [...after.primaries, ...after.secondaries]) {
        const outside = outsides.get(view.table('volume').get(volume)?.array ?? '');
        if (outside) never(outside, `${outside.name} is an outside array: it copies nothing to others.`);
      }
    if (kind === 'snapshot' && after && !before) {
      const outside = outsides.get(view.table('volume').get(after.volume)?.array ?? '');
      if (outside) never(outside, `${outside.name} is an outside array: no copies in time are made on it.`);
    } else if (kind === 'move' && after && !before)
      bar(
        behind(after.volume),
        (row) => `${row.name} stands behind ${nameOf(row)}: its data goes by the volume in front.`,
      );
    else if (kind === 'mapping' && after && !before)
      bar(behind(after.volume), (row) => `${row.name} stands behind ${nameOf(row)}: a host would write past it.`);
    else if (kind === 'volume' && before) {
      const field = after
        ? (Object.keys(agreed) as (keyof typeof agreed)[]).find((one) => before[one] !== after[one])
        : undefined;
      const gone = after === null || after.deletedAt !== before.deletedAt;
      if (field || gone) bar(behind(id), (row) => `${before.name} is ${row.name}, which stands behind ${nameOf(row)}.`);
      const [front] = known.by('front', id);
      if (front && (field || gone))
        bar(
          front,
          (row) =>
            `${before.name} stands in front of ${row.name}${field ? `, and ${agreed[field]}` : ': hosts would lose the way to its data'}.`,
        );
    } else if (kind === 'job' && after && !before && after.drive !== null) {
      const lun = view.table('drive').get(after.drive)?.lun;
      if (lun)
        bar(
          known.by('drive', after.drive)[0],
          (row) => `${row.name} is a LUN of an outside array, no drive to work on.`,
        );
    } else if ((kind === 'drive' || kind === 'raidGroup') && before) {
      const drive = kind === 'drive' ? before : view.table('drive').get(before.drives[0] ?? '');
      if (!drive?.lun) continue;
      const apart = after === null || (kind === 'drive' && worn.some((field) => after[field] !== before[field]));
      if (apart)
        bar(
          known.by('drive', drive.id)[0],
          (row) => `${row.name} is a LUN of an outside array, in a group of its own.`,
        );
    }
  }
  return [...found.values()];
}
