import type { ArrayRow, Plan, Snapshot, Volume, Workload } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, workloadOf } from '../estate/relations';
import { arrayChoices, byName, draftArray, draftText } from '../operation/draft';
import { lookUp, type Inquiry } from '../operation/inquiry';
import type { Draft, FieldForetold } from '../operation/operation';
import { subjectOf, type Subject } from '../operation/refusal';

/** What is protected as one: the volumes of a workload, whose write order is kept together, or a volume by itself. */
export interface Protected {
  workload: Workload | null;
  volumes: Volume[];
  name: string;
}

export const subjectOfProtected = ({ workload, volumes }: Protected): Subject =>
  workload ? subjectOf('workload', workload) : subjectOf('volume', volumes[0]!);

const inUse = (volume: Volume): boolean => volume.deletedAt === null;

/** The volumes of a workload that are in use, by name. */
export const membersOf = (view: EstateView, workload: Workload): Volume[] =>
  [...view.table('volume').by('workload', workload.id)].filter(inUse).sort(byName);

export const ofWorkload = (view: EstateView, workload: Workload): Protected => ({
  workload,
  volumes: membersOf(view, workload),
  name: workload.name,
});

export const ofVolume = (volume: Volume): Protected => ({ workload: null, volumes: [volume], name: volume.name });

/** The plan that makes copies of a volume: its own, else that of its workload. */
export function planOf(view: EstateView, volume: Volume): Plan | undefined {
  const id = volume.plan ?? workloadOf(view, volume)?.plan ?? null;
  return id === null ? undefined : view.table('plan').get(id);
}

/** What a plan is at work for: workloads with the volumes that have no plan of their own, and volumes with one. */
export function subjectsOf(view: EstateView, plan: Plan): Protected[] {
  const workloads = view
    .table('workload')
    .by('plan', plan.id)
    .map((workload): Protected => ({
      ...ofWorkload(view, workload),
      volumes: membersOf(view, workload).filter((volume) => volume.plan === null || volume.plan === plan.id),
    }));
  const taken = new Set(workloads.flatMap(({ volumes }) => volumes.map((volume) => volume.id)));
  const alone = view
    .table('volume')
    .by('plan', plan.id)
    .filter((volume) => inUse(volume) && !taken.has(volume.id))
    .map(ofVolume);
  return [...workloads.filter(({ volumes }) => volumes.length > 0), ...alone];
}

/** A moment to which one can go back: the copies of one cut. */
export interface RestorePoint {
  cut: string;
  name: string;
  at: number;
  copies: Snapshot[];
}

/** All restore points of a workload, or of a volume by itself, the oldest first. */
export function pointsOf(view: EstateView, { workload, volumes }: Protected): RestorePoint[] {
  const table = view.table('snapshot');
  const copies = workload ? table.by('workload', workload.id) : volumes.flatMap((one) => table.by('volume', one.id));
  const found: RestorePoint[] = [];
  /** Those met so far by their cut, once one comes that is no younger than the last. */
  let byCut: Map<string, RestorePoint> | null = null;
  for (const copy of copies) {
    if (!copy.kept) continue;
    const last = found.at(-1);
    if (last?.cut === copy.cut) {
      last.copies.push(copy);
      continue;
    }
    // Cuts mostly come in the order of their times: a younger one was not met yet.
    if (!byCut && last && copy.at <= last.at) byCut = new Map(found.map((point) => [point.cut, point]));
    const known = byCut?.get(copy.cut);
    if (known) {
      known.copies.push(copy);
      continue;
    }
    const point = { cut: copy.cut, name: copy.name, at: copy.at, copies: [copy] };
    found.push(point);
    byCut?.set(copy.cut, point);
  }
  return byCut ? found.sort((a, b) => a.at - b.at || (a.cut < b.cut ? -1 : 1)) : found;
}

/** How operations name what they protect. */
export interface Named {
  workload?: string | undefined;
  array?: string | undefined;
  volume?: string | undefined;
}

export const namedWords = (p: Named): string => p.workload || [p.array, p.volume].filter(Boolean).join(' ');

/** What an operation names: a workload, or a volume of an array. */
export function askProtected(view: EstateView, asks: Inquiry, p: Named): Protected | undefined {
  if (p.workload && p.volume) {
    asks.refuse({
      code: 'workload-and-volume',
      field: 'volume',
      subject: { kind: 'workload', name: p.workload },
      message: 'A workload and a volume are both named.',
      mend: 'Leave one of them out.',
    });
    return undefined;
  }
  if (p.volume) {
    const array = asks.find('array', p.array ?? '', 'array');
    const volume = array && asks.find('volume', p.volume, 'volume', array);
    if (!volume) return undefined;
    if (inUse(volume)) return ofVolume(volume);
    asks.refuse({
      code: 'volume-retired',
      field: 'volume',
      subject: subjectOf('volume', volume),
      message: `${volume.name} was retired and is only kept.`,
      mend: 'Restore it first.',
    });
    return undefined;
  }
  const workload = asks.find('workload', p.workload ?? '', 'workload');
  if (!workload) return undefined;
  const found = ofWorkload(view, workload);
  if (found.volumes.length > 0) return found;
  asks.refuse({
    code: 'workload-empty',
    field: 'workload',
    subject: subjectOf('workload', workload),
    message: `${workload.name} has no volume.`,
    mend: 'Let volumes belong to it first.',
  });
  return undefined;
}

/** Restore points by name. */
export function askPoints(
  view: EstateView,
  asks: Inquiry,
  subject: Protected,
  names: readonly string[],
  field = 'copies',
): RestorePoint[] {
  const points = pointsOf(view, subject);
  return names.flatMap((text) => {
    const wanted = text.trim().toLowerCase();
    const found = points.filter((point) => point.name.toLowerCase() === wanted || point.cut === text.trim());
    const [point] = found.slice(-1);
    if (point) return [point];
    const near = points.slice(-3).map(({ name }) => name);
    asks.refuse({
      code: 'restore-snapshot-missing',
      field,
      subject: { kind: 'snapshot', name: text },
      message: text.trim() === '' ? 'No copy is named.' : `${subject.name} has no copy ${text}; it may be gone.`,
      mend: near.length > 0 ? `The newest are: ${near.reverse().join(', ')}.` : `Nothing of ${subject.name} is copied.`,
    });
    return [];
  });
}

/** The arrays on which a subject lies. */
export const arraysOf = (view: EstateView, { volumes }: Protected): ArrayRow[] => [
  ...new Set(volumes.map((volume) => arrayOf(view, volume))),
];

/** What a draft names, as far as it is known. */
export function draftProtected(view: EstateView, draft: Draft): Protected | undefined {
  const array = draftArray(view, draft);
  const volume = array && lookUp(view, 'volume', draftText(draft, 'volume'), array.id);
  if (volume && inUse(volume)) return ofVolume(volume);
  const workload = lookUp(view, 'workload', draftText(draft, 'workload'));
  return workload ? ofWorkload(view, workload) : undefined;
}

/** Fields that name what is protected. */
export function protectedFields(
  view: EstateView,
  draft: Draft,
): Record<'workload' | 'array' | 'volume', FieldForetold> {
  const array = draftArray(view, draft);
  const volumes = array ? view.table('volume').by('array', array.id).filter(inUse) : [];
  const subject = draftProtected(view, draft);
  return {
    workload: {
      choices: [
        { value: '', label: 'None: a volume by itself' },
        ...[...view.table('workload').values()].sort(byName).map((row) => ({ value: row.name, label: row.name })),
      ],
      says: subject?.workload
        ? `${subject.volumes.map((volume) => volume.name).join(', ') || 'No volume'}: cut at one instant, write order kept.`
        : '',
    },
    array: { choices: [{ value: '', label: 'As the workload' }, ...arrayChoices(view)] },
    volume: {
      choices: [
        { value: '', label: 'None' },
        ...[...volumes].sort(byName).map((row) => ({ value: row.name, label: row.name })),
      ],
      says: 'Only where no workload is named.',
    },
  };
}
