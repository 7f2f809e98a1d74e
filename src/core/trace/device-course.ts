import type { Host, HostDevice } from '../estate/entities';
import {
  pathCourse,
  usualTimers,
  type FlowTurn,
  type PathHappening,
  type PathStanding,
  type PathStart,
} from '../attach/path-machine';
import type { PathEvent } from '../attach/path-events';
import type { Path, Paths } from '../attach/paths';
import { endsOf, selectorOf } from '../attach/selector';
import type { Milliseconds } from '../units/duration';

/** What happened to paths of a host, and the lab's time now. */
export interface PathsPast {
  /** In any order. */
  events: readonly PathEvent[];
  now: Milliseconds;
}

/**
 * How a path stands at its host; `since` is null where it was so from the beginning. One that is lost without the host having noticed is
 * `unnoticed`, and `since` then tells when it will; null for never.
 */
export interface Standing {
  standing: PathStanding | 'absent' | 'unnoticed';
  since: Milliseconds | null;
  /** When a failed path is given up; null where never, or where it is not failed. */
  removedAt: Milliseconds | null;
}

export interface DeviceCourse {
  of(ends: { interface: string; port: string }): Standing;
  /** Whether I/O flows, waits or fails, and since when; a wait ends at `failsAt`. */
  io: FlowTurn & { failsAt: Milliseconds | null };
}

/**
 * What a host has made of a device's paths up to now: its timers over what happened to them. A path that is missing and was never seen is
 * absent: nothing was lost.
 */
export function deviceCourse(
  host: Host,
  device: HostDevice | undefined,
  array: string,
  paths: Pick<Paths, 'found' | 'missing'>,
  { events, now }: PathsPast,
): DeviceCourse {
  const past = events
    .filter((event) => event.host === host.id && event.array === array && event.at <= now)
    .sort((a, b) => a.at - b.at);
  const found = new Map(paths.found.map((path) => [endsOf(path), path]));
  const seen = new Set([...found.keys(), ...paths.missing.map(endsOf)]);
  const started = new Map<string, PathStart>();
  const unnoticed = new Map<string, Milliseconds>();
  const happenings: PathHappening[] = [];
  for (const event of past) {
    const id = endsOf(event);
    if (!seen.has(id)) continue;
    if (!started.has(id)) started.set(id, { id, access: accessOf(event.before, found.get(id)) });
    const at = event.after === 'down' ? event.at + event.noticedAfter : event.at;
    unnoticed.delete(id);
    // What is not noticed yet has not happened to the host.
    if (at > now) {
      unnoticed.set(id, at);
      continue;
    }
    happenings.push(
      event.after === 'down'
        ? { at, path: id, what: 'lost' }
        : {
            at,
            path: id,
            what: event.before === 'down' ? 'back' : 'access',
            access: accessOf(event.after, found.get(id)),
          },
    );
  }
  for (const [id, path] of found) if (!started.has(id)) started.set(id, { id, access: accessOf('down', path) });
  happenings.sort((a, b) => a.at - b.at);
  const timers = { ...usualTimers, lossTime: host.lossTime, noPathWait: host.noPathWait };
  const course = pathCourse([...started.values()], happenings, {
    from: past[0] ? Math.min(past[0].at, now) : now,
    until: now,
    timers,
    selector: selectorOf(host, device),
    failback: host.failback,
  });
  const io = course.flow.at(-1)!;
  return {
    of(ends) {
      const id = endsOf(ends);
      const standing = course.standing.get(id);
      if (!standing) return { standing: 'absent', since: null, removedAt: null };
      const noticed = found.has(id) ? undefined : unnoticed.get(id);
      if (noticed !== undefined)
        return { standing: 'unnoticed', since: Number.isFinite(noticed) ? noticed : null, removedAt: null };
      const moved = course.turns.some((turn) => turn.path === id);
      const since = moved ? course.since.get(id)! : null;
      return {
        standing,
        since,
        removedAt: standing === 'failed' && since !== null && host.lossTime > 0 ? since + host.lossTime : null,
      };
    },
    io: { ...io, failsAt: io.flow === 'waits' ? io.at + host.noPathWait : null },
  };
}

/** What is told of a path now is right for this volume; events tell of the worst volume that goes by its ports. */
function accessOf(told: PathEvent['before'], path: Path | undefined) {
  if (path) return path.state;
  return told === 'down' ? 'optimized' : told;
}
