import { loadMoved } from '../performance/moved';
import type { Effect } from '../estate/effects';
import { kindWords, type Kind, type Rows } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { volumeOf } from '../estate/relations';
import { pathFinder, type PathFinder } from '../attach/paths';
import type { NextStep, StepDevice } from '../operation/operation';
import type { Refusal, Subject } from '../operation/refusal';
import { subjectOf } from '../operation/refusal';
import { poolUsage } from '../pool/usage';
import { formatBytes, percentUsed } from '../units/bytes';
import type { Milliseconds } from '../units/duration';
import { planningChange, type PlanBasis } from './plan';
import { whole, type InParts } from '../units/in-parts';
import type { OperationDocument } from './registry';
import { capital } from '../units/counted';

/** One derived figure before and after; null where the thing is not there. */
export interface Figure {
  subject: Subject;
  label: string;
  before: string | null;
  after: string | null;
}

export interface PreviewStep {
  operation: number;
  unit: number;
  device: StepDevice;
  title: string;
  takes: Milliseconds;
  notes: string[];
  destroys: string | null;
  /** How it is taken back, where that is not by undoing it. */
  back?: string;
  next: NextStep[];
  /** It changes nothing on record: there is nothing to take back. */
  idle: boolean;
}

export interface Preview {
  steps: PreviewStep[];
  refusals: Refusal[];
  figures: Figure[];
  /** Simulated time of all steps together. */
  takes: Milliseconds;
  /** What is lost for good. */
  destroys: string[];
}

/** Plans the operations over the estate and says what they do and what they change, without touching anything. */
export const previewChange = (view: EstateView, operations: readonly OperationDocument[], basis: PlanBasis): Preview =>
  whole(previewingChange(view, operations, basis));

/** The same in parts. */
export function* previewingChange(
  view: EstateView,
  operations: readonly OperationDocument[],
  basis: PlanBasis,
): InParts<Preview> {
  const plan = yield* planningChange(view, operations, basis);
  return {
    steps: plan.steps.map(({ effects, ...step }) => ({ ...step, idle: effects.every(leavesAll) })),
    refusals: plan.refusals,
    figures: figures(
      view,
      plan.overlay,
      plan.steps.flatMap((step) => step.effects),
    ),
    takes: plan.steps.reduce((sum, step) => sum + step.takes, 0),
    destroys: plan.steps.flatMap((step) => step.destroys ?? []),
  };
}

/** Whether an effect leaves every field as it was. */
const leavesAll = ({ before, after }: Effect): boolean =>
  before !== null && after !== null && JSON.stringify(before) === JSON.stringify(after);

/** Ids of the things whose figures the effects may have moved. */
function touched(before: EstateView, after: EstateView, effects: readonly Effect[]) {
  const ids = { array: new Set<string>(), pool: new Set<string>(), host: new Set<string>() };
  const portArrays = new Set<string>();
  const either = <K extends Kind>(kind: K, id: string) => after.table(kind).get(id) ?? before.table(kind).get(id);
  const addHost = (id: string | null) => void (id && ids.host.add(id));
  for (const effect of effects)
    for (const row of [effect.before, effect.after]) {
      if (!row) continue;
      if (effect.kind === 'drive') ids.array.add((row as Rows['drive']).array);
      if (effect.kind === 'pool') ids.pool.add(row.id);
      if (effect.kind === 'volume') ids.pool.add((row as Rows['volume']).pool);
      if (effect.kind === 'extent') {
        const pool = either('raidGroup', (row as Rows['extent']).raidGroup)?.pool;
        if (pool) ids.pool.add(pool);
      }
      if (effect.kind === 'raidGroup' && (row as Rows['raidGroup']).pool)
        ids.pool.add((row as Rows['raidGroup']).pool!);
      if (effect.kind === 'host') ids.host.add(row.id);
      if (effect.kind === 'mapping' || effect.kind === 'hostDevice' || effect.kind === 'initiator')
        ids.host.add((row as Rows['mapping']).host);
      // A port that has logged in may be nobody's yet.
      if (effect.kind === 'interface') addHost((row as Rows['interface']).host);
      if (effect.kind === 'activeZone')
        for (const member of [...(row as Rows['activeZone']).members, ...(row as Rows['activeZone']).principals])
          if (member.startsWith('wwpn:'))
            for (const end of after.table('interface').by('wwpn', member.slice(5))) addHost(end.host);
      if (effect.kind === 'port') portArrays.add((row as Rows['port']).array);
    }
  if (portArrays.size > 0)
    for (const mapping of after.table('mapping').values())
      if (portArrays.has(volumeOf(after, mapping).array)) ids.host.add(mapping.host);
  return ids;
}

const freeDrives = (view: EstateView, array: string): string =>
  String(
    view
      .table('drive')
      .by('array', array)
      .filter((drive) => !drive.raidGroup).length,
  );

function hostFigures(
  view: EstateView,
  finder: PathFinder,
  host: string,
): { paths: string; devices: string; mounted: string } | null {
  if (!view.table('host').get(host)) return null;
  let usable = 0;
  let expected = 0;
  for (const mapping of view.table('mapping').by('host', host)) {
    const count = finder.count(mapping);
    usable += count.usable;
    expected += count.expected;
  }
  const devices = view.table('hostDevice').by('host', host);
  return {
    paths: `${usable}/${expected}`,
    devices: String(devices.length),
    mounted: String(devices.filter((device) => device.mountPoint).length),
  };
}

function poolFigures(view: EstateView, id: string) {
  const pool = view.table('pool').get(id);
  if (!pool) return null;
  const usage = poolUsage(view, pool);
  return {
    left: formatBytes(usage.availableBytes),
    filled: `${percentUsed(usage.used, usage.capacity)} %`,
    promised: `${percentUsed(usage.promised, usage.size)} %`,
  };
}

/** Only figures that move are listed. */
export function figures(before: EstateView, after: EstateView, effects: readonly Effect[]): Figure[] {
  const found: Figure[] = [];
  const add = (subject: Subject, label: string, was: string | null, is: string | null) => {
    if (was !== is) found.push({ subject, label, before: was, after: is });
  };
  const ids = touched(before, after, effects);
  /** A thing that is there before or after; what came and went in between has no figures. */
  const subjectOfEither = (kind: 'array' | 'pool' | 'host', id: string): Subject | null => {
    const row = after.table(kind).get(id) ?? before.table(kind).get(id);
    return row ? subjectOf(kind, row) : null;
  };
  for (const id of ids.array) {
    const subject = subjectOfEither('array', id);
    if (subject) add(subject, 'Free drives', freeDrives(before, id), freeDrives(after, id));
  }
  for (const id of ids.pool) {
    const subject = subjectOfEither('pool', id);
    if (!subject) continue;
    const [was, is] = [poolFigures(before, id), poolFigures(after, id)];
    add(subject, 'Left', was?.left ?? null, is?.left ?? null);
    add(subject, 'Filled', was?.filled ?? null, is?.filled ?? null);
    add(subject, 'Promised', was?.promised ?? null, is?.promised ?? null);
  }
  for (const { array, was, is } of loadMoved(before, after, effects)) {
    const subject = subjectOfEither('array', array);
    if (subject) add(subject, 'Busiest hour', was, is);
  }
  const finders = { before: pathFinder(before), after: pathFinder(after) };
  for (const id of ids.host) {
    const subject = subjectOfEither('host', id);
    if (!subject) continue;
    const [was, is] = [hostFigures(before, finders.before, id), hostFigures(after, finders.after, id)];
    add(subject, 'Paths', was?.paths ?? null, is?.paths ?? null);
    add(subject, 'Devices', was?.devices ?? null, is?.devices ?? null);
    add(subject, 'Mounted', was?.mounted ?? null, is?.mounted ?? null);
  }
  for (const kind of ['raidGroup', 'pool', 'volume', 'host', 'mapping'] as const) {
    const [was, is] = [before.table(kind).size, after.table(kind).size];
    add({ kind, name: 'Estate' }, plural(kind), String(was), String(is));
  }
  return found;
}

const plural = (kind: Kind): string => `${capital(kindWords[kind])}s`;
