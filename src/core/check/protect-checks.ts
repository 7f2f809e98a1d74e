import { areaBytes, copiesOf } from '../copies/area';
import { shownBytes } from '../copies/parts';
import type { Plan, Snapshot } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, volumeOf } from '../estate/relations';
import type { NextStep } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { availableExtents } from '../pool/usage';
import { coverageOf, type Coverage } from '../protect/coverage';
import { largestGap, nextRuns } from '../protect/due';
import { fullOn } from '../protect/make';
import { policyOf, verdicts } from '../protect/prune';
import { runsOf } from '../protect/run';
import { ofWorkload, planOf, pointsOf, subjectOfProtected, subjectsOf, type Protected } from '../protect/subject';
import { formatBytes } from '../units/bytes';
import { counted, someOf } from '../units/counted';
import { dateText, timeText } from '../units/date';
import { DAY, formatDuration, SECOND, type Milliseconds } from '../units/duration';
import { offer, type Check, type CheckContext, type Found, type Severity } from './finding';
import { isLocked, lockTime } from '../copies/locked';

const LARGE_SHARE = 0.3;
const FORGOTTEN = 90 * DAY;
const HELD_LONG = 14 * DAY;
/** Missed and crash-consistent runs in a row that are told. */
const MISSED = 2;
const ONLY_CRASH = 3;
/** A clock may be off by so much. */
const CLOCK_LEEWAY = 300 * SECOND;

type Told = Omit<Found, 'subject'>;

const namedBy = ({ workload, volumes }: Protected, view: EstateView): Record<string, unknown> =>
  workload ? { workload: workload.name } : { array: arrayOf(view, volumes[0]!).name, volume: volumes[0]!.name };

/** A check of each workload and volume that a plan protects. */
const eachProtected = (
  id: string,
  severity: Severity,
  title: string,
  look: (view: EstateView, subject: Protected, plan: Plan, context: CheckContext) => Told | null,
): Check => ({
  id,
  severity,
  title,
  *find(view, context) {
    for (const plan of view.table('plan').values())
      for (const subject of subjectsOf(view, plan)) {
        const found = look(view, subject, plan, context);
        yield found && { subject: { ...subjectOfProtected(subject), id: subjectOfProtected(subject).id! }, ...found };
      }
  },
});

const covered = (view: EstateView, subject: Protected, { now }: CheckContext): Coverage =>
  coverageOf(view, subject, now);

const planSubject = (plan: Plan) => ({ ...subjectOf('plan', plan), id: plan.id });
const copySubject = (view: EstateView, copy: Snapshot) => ({
  kind: 'snapshot' as const,
  id: copy.id,
  name: `${volumeOf(view, copy).name} ${copy.name}`,
});

/** One copy of each cut is looked at. */
function* firstOfCuts(view: EstateView): Generator<Snapshot> {
  const seen = new Set<string>();
  for (const copy of view.table('snapshot').values()) {
    if (!copy.kept || seen.has(copy.cut)) continue;
    seen.add(copy.cut);
    yield copy;
  }
}

const copyParams = (view: EstateView, copy: Snapshot): Record<string, unknown> => {
  const volume = volumeOf(view, copy);
  const workload = copy.workload === null ? undefined : view.table('workload').get(copy.workload);
  return {
    ...(workload ? { workload: workload.name } : { array: arrayOf(view, volume).name, volume: volume.name }),
    copies: [copy.name],
  };
};

function lateWords(view: EstateView, subject: Protected, now: Milliseconds): { missed: number; why: string } | null {
  const runs = [...runsOf(view, subject)].sort((a, b) => b.at - a.at);
  const good = runs.findIndex((run) => run.result === 'done');
  const since = good < 0 ? runs : runs.slice(0, good);
  const failed = since.filter((run) => now - run.at < 7 * DAY);
  return failed.length >= MISSED ? { missed: failed.length, why: failed[0]!.reason ?? 'nobody knows why' } : null;
}

export const protectChecks: Check[] = [
  {
    id: 'volume-unprotected',
    severity: 'warning',
    title: 'Workloads without copies by plan',
    *find(view) {
      for (const workload of view.table('workload').values()) {
        if (workload.plan !== null) {
          yield null;
          continue;
        }
        const open = ofWorkload(view, workload).volumes.filter((volume) => volume.plan === null && volume.written > 0);
        yield open.length === 0
          ? null
          : {
              subject: { ...subjectOf('workload', workload), id: workload.id },
              says: `No plan makes copies of ${workload.name}: ${someOf(open.map((volume) => volume.name))}.`,
              advice: 'Attach a plan, or mute this if the data can be made anew.',
              mend: offer('Protect it', 'plan.attach', { workloads: [workload.name] }),
            };
      }
      for (const { volume: id, serviceClass } of view.table('classUse').values()) {
        const volume = view.table('volume').get(id)!;
        const own = view.table('serviceClass').get(serviceClass)!;
        // A workload without a plan tells of its volumes itself.
        const told = volume.workload !== null && volume.written > 0;
        yield own.copies === 'none' || volume.deletedAt !== null || told || planOf(view, volume)
          ? null
          : {
              subject: { kind: 'volume', id, name: `${arrayOf(view, volume).name} ${volume.name}` },
              says: `${volume.name} has no copies although its class ${own.name} asks for them.`,
              advice: 'Attach a plan.',
              mend: offer('Protect it', 'plan.attach', {
                array: arrayOf(view, volume).name,
                volumes: [volume.name],
              }),
            };
      }
    },
  },
  eachProtected('copies-over-rpo', 'error', 'Copies older than promised', (view, subject, plan, context) => {
    const coverage = covered(view, subject, context);
    const short = coverage.short.find(({ code }) => code === 'over-rpo');
    if (!short || plan.rpo === null) return null;
    return {
      says: `${subject.name} could go back to ${timeText(coverage.newest!.at)} UTC only: ${formatDuration(context.now - coverage.newest!.at)} behind, ${formatDuration(plan.rpo)} promised.`,
      advice: coverage.lastRun?.reason ? `Its last run: ${coverage.lastRun.reason}.` : 'Run its plan now.',
      mend: offer('Run the plan now', 'plan.run', namedBy(subject, view)),
    };
  }),
  eachProtected('schedule-missed', 'warning', 'Runs that were missed', (view, subject, plan, { now }) => {
    const late = lateWords(view, subject, now);
    return (
      late && {
        says: `${plan.name} missed ${late.missed} runs of ${subject.name}: ${late.why}.`,
        advice: 'Mend the reason; the next run comes by itself.',
        mend: offer('Run the plan now', 'plan.run', namedBy(subject, view)),
      }
    );
  }),
  {
    id: 'schedule-gap-over-rpo',
    severity: 'warning',
    title: 'Plans that leave larger gaps than they promise',
    *find(view, { now }) {
      for (const plan of view.table('plan').values()) {
        const gap = plan.rpo === null || plan.paused ? null : largestGap(plan, now);
        yield gap && plan.rpo !== null && gap.span > plan.rpo
          ? {
              subject: planSubject(plan),
              says: `${plan.name} leaves ${formatDuration(gap.span)} from ${timeText(gap.from)} UTC without a copy; ${formatDuration(plan.rpo)} are promised.`,
              advice: 'Use an interval such as 30 min, add a schedule, or promise less.',
              mend: offer('Add a schedule', 'plan.schedule', { plan: plan.name }),
            }
          : null;
      }
    },
  },
  {
    id: 'plan-paused-long',
    severity: 'warning',
    title: 'Plans that are paused for long',
    *find(view, { now }) {
      for (const plan of view.table('plan').values())
        yield plan.paused && plan.pausedSince !== null && now - plan.pausedSince > DAY
          ? {
              subject: planSubject(plan),
              says: `${plan.name} is paused since ${timeText(plan.pausedSince)} UTC: ${someOf(subjectsOf(view, plan).map(({ name }) => name)) || 'nothing'} is not copied.`,
              advice: 'Let it go on.',
              mend: offer('Let it go on', 'plan.configure', { plan: plan.name, paused: 'false' }),
            }
          : null;
    },
  },
  eachProtected(
    'snapshot-overrun',
    'warning',
    'Copies that take longer than their interval',
    (view, subject, plan, { now }) => {
      const last = [...runsOf(view, subject)].sort((a, b) => b.at - a.at).find((run) => run.result === 'done');
      const [first, second] = nextRuns(plan, now, 2);
      if (!last || !first || !second || last.took <= second.at - first.at) return null;
      return {
        says: `Copies of ${subject.name} take ${formatDuration(last.took)}, longer than the ${formatDuration(second.at - first.at)} between them.`,
        advice: 'Lengthen the interval.',
        mend: offer('Change the schedule', 'plan.schedule', { plan: plan.name, schedule: second.schedules[0]!.name }),
      };
    },
  ),
  eachProtected('snapshot-only-crash', 'warning', 'Applications that could not be paused', (view, subject, plan) => {
    if (!plan.schedules.some((schedule) => schedule.quiesce)) return null;
    const points = pointsOf(view, subject).filter(({ copies }) => copies[0]!.plan === plan.id);
    const last = points.slice(-ONLY_CRASH);
    if (last.length < ONLY_CRASH || last.some(({ copies }) => copies[0]!.label === 'application')) return null;
    const reason = last.at(-1)!.copies[0]!.reason;
    const host = [...view.table('host').values()].find((row) => reason?.includes(` ${row.name}`));
    const mend: NextStep | null =
      host && host.agent === 'none'
        ? offer('Install an agent', 'host.application', { host: host.name, agent: 'true' })
        : null;
    return {
      says: `${subject.name} could not be paused: ${reason ?? 'nobody asked it to'}.`,
      advice: 'Mend the agent, or say what runs on the hosts.',
      mend,
    };
  }),
  {
    id: 'volume-snapshots-large',
    severity: 'warning',
    title: 'Copies that hold much',
    *find(view) {
      for (const volume of view.table('volume').values()) {
        if (volume.copiesBytes === 0 || volume.origin !== null) {
          yield null;
          continue;
        }
        const area = areaBytes(view, volume);
        yield area > LARGE_SHARE * Math.max(volume.size, shownBytes(volume))
          ? {
              subject: {
                ...subjectOf('volume', volume),
                id: volume.id,
                name: `${arrayOf(view, volume).name} ${volume.name}`,
              },
              says: `Copies of ${volume.name} hold ${formatBytes(area, 'used')}, more than ${Math.round(LARGE_SHARE * 100)} % of its ${formatBytes(volume.size)}.`,
              advice: 'Shorten what its plan keeps, or delete copies.',
              mend: offer('Delete copies', 'snapshot.delete', {
                array: arrayOf(view, volume).name,
                volume: volume.name,
                copies: copiesOf(view, volume.id)
                  .slice(0, 1)
                  .map(({ name }) => name),
              }),
            }
          : null;
      }
    },
  },
  {
    id: 'snapshot-forgotten',
    severity: 'note',
    title: 'Copies that nobody thought of again',
    *find(view, { now }) {
      for (const copy of firstOfCuts(view))
        yield copy.plan === null && copy.keepUntil === null && copy.hold === '' && now - copy.at > FORGOTTEN
          ? {
              subject: copySubject(view, copy),
              says: `${copy.name} of ${volumeOf(view, copy).name} is kept since ${dateText(copy.at)}${copy.madeBy ? ` by ${copy.madeBy}` : ''}, without an end.`,
              advice: 'Say until when it is kept, or delete it.',
              mend: offer('Say until when', 'snapshot.configure', copyParams(view, copy)),
            }
          : null;
    },
  },
  {
    id: 'snapshot-held-long',
    severity: 'note',
    title: 'Copies past their time that cannot go',
    *find(view, { now }) {
      for (const plan of view.table('plan').values())
        for (const subject of subjectsOf(view, plan)) {
          const ages = plan.schedules.flatMap((schedule) => policyOf(schedule.retention).maxAge ?? []);
          const { held } = verdicts(view, plan, pointsOf(view, subject), now);
          const long = ages.length === 0 ? [] : held.filter(({ at }) => now - at - Math.max(...ages) > HELD_LONG);
          const [first] = long;
          yield first
            ? {
                subject: copySubject(view, first.copies[0]!),
                says: `${counted(long.length, 'copy', 'copies')} of ${subject.name} ${long.length === 1 ? 'is' : 'are'} past ${long.length === 1 ? 'its' : 'their'} time and cannot be deleted: ${first.copies[0]!.hold ? `held, ${first.copies[0]!.hold}` : 'locked, or a clone rests on it'}.`,
                advice: 'Release it, hide what rests on it, or let the clone hold its own data.',
                mend: offer('Release it', 'snapshot.configure', {
                  ...copyParams(view, first.copies[0]!),
                  hold: 'none',
                }),
              }
            : null;
        }
    },
  },
  eachProtected('copy-not-proven', 'warning', 'Copies that nobody has proven', (view, subject, plan, context) => {
    const coverage = covered(view, subject, context);
    if (!coverage.short.some(({ code }) => code === 'not-proven') || !coverage.newest) return null;
    return {
      says: coverage.proven
        ? `Copies of ${subject.name} were not proven since ${dateText(coverage.proven.at)}; every ${plan.proveDays} days is agreed.`
        : `Copies of ${subject.name} were never proven.`,
      advice: 'Let a host that does not work with the data look at one.',
      mend: offer('Prove one', 'snapshot.validate', { ...namedBy(subject, view), copy: coverage.newest.name }),
    };
  }),
  {
    id: 'pool-locked-floor',
    severity: 'error',
    title: 'Locks that outlast the room',
    *find(view, { now }) {
      for (const pool of view.table('pool').values()) {
        const full = fullOn(view, pool.id, now);
        const locked = view
          .table('volume')
          .by('pool', pool.id)
          .flatMap((volume) => (volume.copiesBytes > 0 ? copiesOf(view, volume.id) : []))
          .filter((copy) => isLocked(view, copy, now));
        const first = Math.min(...locked.map((copy) => copy.lockedUntil!));
        yield full !== null && locked.length > 0 && full < first
          ? {
              subject: { ...subjectOf('pool', pool), id: pool.id, name: `${arrayOf(view, pool).name} ${pool.name}` },
              says: `${counted(locked.length, 'copy', 'copies')} in ${pool.name} ${locked.length === 1 ? 'is' : 'are'} locked beyond ${dateText(full)}, when it would be full with ${formatBytes(availableExtents(view, pool) * pool.extentSize)} left now; nothing may be deleted before ${dateText(first)}.`,
              advice: 'Only more capacity helps, or moving other volumes.',
              mend: offer('Extend the pool', 'pool.extend', { array: arrayOf(view, pool).name, name: pool.name }),
            }
          : null;
      }
    },
  },
  {
    id: 'lock-clock-jump',
    severity: 'error',
    title: 'Clocks that jumped',
    *find(view, { now }) {
      for (const array of view.table('array').values()) {
        const clock = now + array.clockOff;
        const judged = lockTime(array, now);
        yield Math.abs(clock - judged) > CLOCK_LEEWAY
          ? {
              subject: { ...subjectOf('array', array), id: array.id },
              says: `The clock of ${array.name} jumped by ${formatDuration(Math.abs(array.clockOff))}; locks go by ${timeText(judged)} UTC, so that none ends early.`,
              advice: 'Let it go by its time source again.',
              mend: offer('Set its clock right', 'array.set-clock', { array: array.name }),
            }
          : null;
      }
    },
  },
  {
    id: 'agent-silent',
    severity: 'warning',
    title: 'Agents that do not answer as they should',
    *find(view) {
      for (const host of view.table('host').values())
        yield host.agent === 'none' || host.agent === 'ready'
          ? null
          : {
              subject: { ...subjectOf('host', host), id: host.id },
              says: `The agent at ${host.name} ${host.agent === 'absent' ? 'does not answer' : host.agent === 'slow' ? 'takes too long to pause its application' : 'never tells that its application goes on; it may still be paused'}.`,
              advice: 'Mend the agent there; until then copies of its volumes are crash-consistent.',
              mend: null,
            };
    },
  },
];
