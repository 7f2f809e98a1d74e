import { compacted, type Effect } from '@/core/estate/effects';
import type { EstateView, Overlay } from '@/core/estate/estate';
import type { MailRow } from '@/core/change/record';
import type { Job, Kind } from '@/core/estate/entities';
import { newIds } from '@/core/estate/new-ids';
import { nextNight, nightly } from '@/core/lab/nightly';
import { movedOnBy, nextMove } from '@/core/moving/pass';
import { paced, pacedJobs } from '@/core/performance/pace';
import { canCatchUp, nextPlanRun, planPassOn } from '@/core/protect/pass';
import { usageSamples } from '@/core/space/history';
import { HOUR, type Milliseconds } from '@/core/units/duration';
import { nextJobEnd, workJob, workOf } from '@/core/work/scheduler';
import type { Plant } from './plant';
import type { ByNight } from './by-night';
import type { Runner } from './runner';
import { nextCycle, replicatedOn } from '@/core/replicate/pass';

/**
 * Something that falls due by itself as the lab's time goes on. The clock asks all of them when they are due next, lets time pass until the
 * earliest, and has that one do its work.
 */
export interface FallsDue {
  /** The next moment at which there is something to do, `now` or later; null for none. `hourly` is a short stretch that is looked at closely. */
  next(now: Milliseconds, hourly: boolean): Milliseconds | null;
  /**
   * What it does in the very commit that lets its time come, applied to the estate as hosts have left it by then: all of it stands, or nothing.
   */
  join?(overlay: Overlay, now: Milliseconds): Joined;
  /** Does what is due; the lab's time stands there. */
  fall(): void;
}

/** What is committed together with the passing of time. */
export interface Joined {
  effects: Effect[];
  said: string[];
  settings: Readonly<Record<string, string>>;
  /** What would be written to somebody. */
  mail?: MailRow[];
}

/** Does one thing of the lab; what it throws is told as a trouble until it works again. Whether it worked. */
export type Guarded = (what: string, words: string, work: () => void) => boolean;

/** Steps of changes at work. They tell their own troubles: a step that fails stops its change. */
export const steps = (runner: Runner): FallsDue => ({
  next: () => runner.nextEnd(),
  fall: () => runner.finishDue(),
});

/** How long work that failed is left alone before it is tried again. */
const ASIDE: Milliseconds = HOUR;

/** Changes that were approved, and those that wait for their window or for an answer. */
export function byNight(night: ByNight, plant: Plant, guarded: Guarded): FallsDue {
  let aside = -Infinity;
  return {
    next(now) {
      const at = night.nextByItself(now);
      return at === null ? null : Math.max(at, aside);
    },
    fall() {
      const { now } = plant.lab;
      const worked = guarded('by night', 'Changes that run by themselves', () => night.runByItself(now));
      aside = worked ? -Infinity : now + ASIDE;
    },
  };
}

/** Work that takes time: the end of a job, or of a batch of it. */
export function jobs(plant: Plant, guarded: Guarded): FallsDue {
  /** Jobs whose work failed, and until when they are left alone. */
  const aside = new Map<string, Milliseconds>();
  const work = (job: Job) => {
    const { effects, said } = workJob(
      plant.estate,
      job,
      plant.lab.now,
      newIds(`job ${job.id} ${plant.lab.now}`, plant.estate),
    );
    plant.commit({ effects: compacted(effects), lab: plant.lab, log: said === null ? [] : [plant.logRow(said)] });
  };
  const first = () => nextJobEnd(plant.estate, aside);
  return {
    next(now) {
      for (const [id, until] of aside) if (until <= now) aside.delete(id);
      return first()?.at ?? null;
    },
    fall() {
      const due = first();
      if (due === null || due.at > plant.lab.now) return;
      const { job } = due;
      if (!guarded(`job ${job.id}`, `Work (${workOf(job).words.busy})`, () => work(job)))
        aside.set(job.id, plant.lab.now + ASIDE);
    },
  };
}

/** What is done once a day, and the day's figures. */
export function nights(plant: Plant, guarded: Guarded): FallsDue {
  const work = () => {
    const { effects, said } = nightly(plant.estate, plant.lab.now, newIds(`night ${plant.lab.now}`, plant.estate));
    if (effects.length > 0 || said.length > 0)
      plant.commit({
        effects: compacted(effects),
        lab: plant.lab,
        log: said.map((message) => plant.logRow(message)),
      });
    plant.commit({ usage: usageSamples(plant.estate, plant.lab.now, true) });
    plant.vault.forgetUnused();
  };
  return {
    next: (now) => nextNight(now),
    fall: () => void guarded('night', 'What falls due at midnight', work),
  };
}

const nextHour = (now: Milliseconds): Milliseconds => (Math.floor(now / HOUR) + 1) * HOUR;

/** Figures of each hour, while time passes slowly enough for them; midnight has its own. */
export const hours = (plant: Plant, guarded: Guarded): FallsDue => ({
  next(now, hourly) {
    const at = nextHour(now);
    return hourly && at !== nextNight(now) ? at : null;
  },
  fall: () =>
    void guarded('figures', 'Keeping figures of the past', () =>
      plant.commit({ usage: usageSamples(plant.estate, plant.lab.now, false) }),
    ),
});

/** Work on RAID groups keeps pace with what hosts ask, hour by hour; what has just begun is looked at before anything else goes on. */
export function paces(plant: Plant, guarded: Guarded): FallsDue {
  /** By job, until when its rate holds. */
  let until = new Map<string, Milliseconds>();
  return {
    next(now) {
      const jobs = pacedJobs(plant.estate);
      if (jobs.length === 0) return null;
      return Math.max(now, Math.min(...jobs.map(({ id }) => until.get(id) ?? now)));
    },
    fall() {
      const { now } = plant.lab;
      // Whatever comes of it, it is looked at again in the next hour alone.
      until = new Map(pacedJobs(plant.estate).map(({ id }) => [id, nextHour(now)]));
      guarded('pace', 'The pace of work on groups and pools', () => {
        const effects = paced(plant.estate, now);
        if (effects.length > 0) plant.commit({ effects, lab: plant.lab });
      });
    },
  };
}

/** What happens in the lab by itself at moments of its own, each in the commit of its moment; what could not be done is left alone for a while. */
function atItsMoments(
  plant: Plant,
  nextOf: (now: Milliseconds) => Milliseconds | null,
  join: (overlay: Overlay, now: Milliseconds) => Joined,
): FallsDue {
  let aside = -Infinity;
  return {
    next(now) {
      const at = nextOf(now);
      return at === null ? null : Math.max(at, aside);
    },
    join,
    fall() {
      const { now } = plant.lab;
      const at = nextOf(now);
      aside = at !== null && at <= now ? now + ASIDE : -Infinity;
    },
  };
}

/** Makes ids for what falls due, by its moment; what falls due at the same moment once more has others. */
function idsByMoment(what: string): (view: EstateView, now: Milliseconds) => (kind: Kind) => string {
  let last = NaN;
  let times = 0;
  return (view, now) => {
    times = now === last ? times + 1 : 0;
    last = now;
    return newIds(times === 0 ? `${what} ${now}` : `${what} ${now} ${times}`, view);
  };
}

/** Cuts, ends and breaks of replications. */
export function replications(plant: Plant): FallsDue {
  const ids = idsByMoment('replication');
  return atItsMoments(
    plant,
    (now) => nextCycle(plant.estate, now),
    (overlay, now) => ({ ...replicatedOn(overlay, now, ids(overlay, now)), settings: {} }),
  );
}

/** Rounds, cuts and ends of moves. */
export function moves(plant: Plant): FallsDue {
  const ids = idsByMoment('moves');
  return atItsMoments(
    plant,
    (now) => nextMove(plant.estate, now),
    (overlay, now) => {
      const { effects, said } = movedOnBy(overlay, now, ids(overlay, now));
      const mail = said.map((subject): MailRow => ({
        atLab: now,
        recipient: 'storage desk',
        subject,
        body: '',
        link: '/moves',
      }));
      return { effects, said, settings: {}, mail };
    },
  );
}

const PLANS_UNTIL = 'plans-until';

/** Runs of protection plans, and those that are made up for. They stand in the commit of the moment at which they are due. */
export function plans(plant: Plant): FallsDue {
  const ids = idsByMoment('plans');
  /** Up to here all runs are made. */
  let until = Number(plant.store.setting(PLANS_UNTIL) ?? plant.lab.now);
  return {
    next(now) {
      // The lab's time may have been put back with another estate.
      until = Math.min(until, now);
      const at = nextPlanRun(plant.estate, until);
      if (at !== null && at <= now) return now;
      until = now;
      return canCatchUp(plant.estate) ? now : at;
    },
    join(overlay, now) {
      const { effects, said } = planPassOn(overlay, until, now, ids(overlay, now));
      return { effects, said, settings: { [PLANS_UNTIL]: String(now) } };
    },
    // What failed was told as a trouble; the next run is tried in its turn.
    fall() {
      until = plant.lab.now;
    },
  };
}
