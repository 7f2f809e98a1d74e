import type { PathSelector } from '../estate/entities';
import type { Milliseconds } from '../units/duration';

/** How an array tells that a path may be used: target port groups (SPC, ALUA) and asymmetric namespace access (NVM Express) in one set of words. */
export type PathAccess = 'optimized' | 'non-optimized' | 'standby' | 'unavailable' | 'offline' | 'transitioning';

/**
 * What a host makes of a path. `active` carries I/O; `enabled` does where nothing active is left; `standby` is up and carries none; `failed` is
 * lost and tried again; `removed` was given up.
 */
export type PathStanding = 'active' | 'enabled' | 'standby' | 'failed' | 'removed';

/** A path as it is told at the beginning. */
export interface PathStart {
  id: string;
  access: PathAccess;
  /** Failover prefers the heavier one; 0 where nothing is said. */
  weight?: number;
}

/** Something that a host notices of a path. `unmapped`: the array knows no such unit any more (05h/25h/00h). */
export type PathHappening = { at: Milliseconds; path: string } & (
  { what: 'lost' | 'back' | 'check-failed' | 'check-passed' | 'unmapped' } | { what: 'access'; access: PathAccess }
);

export interface PathTimers {
  /** From a loss until the path is removed; 0 where it is kept for ever. */
  lossTime: Milliseconds;
  /** How long I/O waits while no path is left; 0 where it fails at once. */
  noPathWait: Milliseconds;
  /** How long a path may be in transition before it counts as failed; 0 for ever. */
  transitionLimit: Milliseconds;
  /** Checks that must fail in a row before the path does. */
  failedChecks: number;
  /** How long a path that is back is left alone before it is used again. */
  holdDown: Milliseconds;
}

export const usualTimers: PathTimers = {
  lossTime: 600_000,
  noPathWait: 60_000,
  transitionLimit: 60_000,
  failedChecks: 1,
  holdDown: 0,
};

/** One path that stands otherwise from `at` on. */
export interface PathTurn {
  at: Milliseconds;
  path: string;
  before: PathStanding;
  after: PathStanding;
  why: string;
}

/** I/O to the volume from `at` on: it flows, waits for a path, or fails. */
export interface FlowTurn {
  at: Milliseconds;
  flow: 'flows' | 'waits' | 'fails';
}

export interface PathCourse {
  turns: PathTurn[];
  flow: FlowTurn[];
  /** Which path failover uses from when on; null where none can be used. Empty for the other selectors. */
  uses: { at: Milliseconds; path: string | null }[];
  standing: Map<string, PathStanding>;
  /** Since when each path stands as it does; the beginning for those that never moved. */
  since: Map<string, Milliseconds>;
  status: 'healthy' | 'degraded' | 'non-optimized-only' | 'no-path';
}

function standingOf(access: PathAccess): PathStanding {
  if (access === 'optimized') return 'active';
  if (access === 'non-optimized') return 'enabled';
  return access === 'offline' ? 'failed' : 'standby';
}

interface Cell extends Required<PathStart> {
  standing: PathStanding;
  up: boolean;
  removed: boolean;
  failed: number;
  since: Milliseconds;
  /** When something happens to it by itself, and what. */
  due: { at: Milliseconds; what: 'remove' | 'give-up-transition' | 'release' } | null;
}

/**
 * The best path for failover: of the best class that is there, the heaviest, then the first by its id. It stays on the one in use while that
 * one is of the best class; with failback it goes back to a heavier one that returns.
 */
export function failoverChoice(
  paths: readonly { id: string; standing: PathStanding; weight: number }[],
  current: string | null,
  failback: boolean,
): string | null {
  const best = (['active', 'enabled'] as const).find((standing) => paths.some((path) => path.standing === standing));
  if (!best) return null;
  const usable = paths.filter((path) => path.standing === best);
  const first = [...usable].sort((a, b) => b.weight - a.weight || (a.id < b.id ? -1 : 1))[0]!;
  const held = usable.find((path) => path.id === current);
  return held && !(failback && first.weight > held.weight) ? held.id : first.id;
}

/**
 * The course of a volume's paths at a host from `from` to `until`: what happens to them and what the host's timers make of it, in the order of
 * time. Happenings of one moment count in the order given; a timer that falls due in the same moment comes before them.
 * @param happenings sorted by time, all within from and until; those that name no path here are passed over.
 */
export function pathCourse(
  paths: readonly PathStart[],
  happenings: readonly PathHappening[],
  {
    from,
    until,
    timers = usualTimers,
    selector = 'round-robin',
    failback = true,
  }: {
    from: Milliseconds;
    until: Milliseconds;
    timers?: PathTimers;
    selector?: PathSelector;
    failback?: boolean;
  },
): PathCourse {
  const turns: PathTurn[] = [];
  const flow: FlowTurn[] = [];
  const uses: PathCourse['uses'] = [];
  const cells = new Map<string, Cell>();
  let waitsUntil: Milliseconds | null = null;

  const transition = (cell: Cell, at: Milliseconds) => {
    cell.due =
      cell.access === 'transitioning' && timers.transitionLimit > 0
        ? { at: at + timers.transitionLimit, what: 'give-up-transition' }
        : null;
  };
  for (const path of paths) {
    const cell: Cell = {
      ...path,
      weight: path.weight ?? 0,
      standing: standingOf(path.access),
      up: true,
      removed: false,
      failed: 0,
      since: from,
      due: null,
    };
    transition(cell, from);
    cells.set(path.id, cell);
  }

  const turn = (cell: Cell, after: PathStanding, at: Milliseconds, why: string) => {
    if (cell.standing === after) return;
    turns.push({ at, path: cell.id, before: cell.standing, after, why });
    cell.standing = after;
    cell.since = at;
  };
  const lose = (cell: Cell, at: Milliseconds, why: string) => {
    cell.up = false;
    turn(cell, 'failed', at, why);
    cell.due = timers.lossTime > 0 ? { at: at + timers.lossTime, what: 'remove' } : null;
  };
  const restore = (cell: Cell, at: Milliseconds, why: string) => {
    cell.up = true;
    cell.failed = 0;
    turn(cell, standingOf(cell.access), at, why);
    transition(cell, at);
  };
  /** Failed paths come back at once, or once they have stood for the hold-down. */
  const comeBack = (cell: Cell, at: Milliseconds, why: string) => {
    if (timers.holdDown === 0 || cell.standing !== 'failed') return restore(cell, at, why);
    cell.due = { at: at + timers.holdDown, what: 'release' };
  };

  const happen = (cell: Cell, one: PathHappening) => {
    const { at } = one;
    if (one.what === 'unmapped') {
      cell.removed = true;
      cell.due = null;
      return turn(cell, 'removed', at, 'the array shows it no longer');
    }
    if (one.what === 'back') {
      if (cell.up) return undefined;
      cell.removed = false;
      return comeBack(cell, at, 'logged in again');
    }
    if (cell.removed) return undefined;
    if (one.what === 'access') {
      cell.access = one.access;
      if (!cell.up) return undefined;
      turn(cell, standingOf(one.access), at, `the array says ${one.access}`);
      return transition(cell, at);
    }
    if (one.what === 'lost') {
      if (cell.up || cell.due?.what === 'release') lose(cell, at, 'the session ended');
      return undefined;
    }
    if (one.what === 'check-passed') {
      cell.failed = 0;
      if (!cell.up) comeBack(cell, at, 'a check passed');
      return undefined;
    }
    cell.failed += 1;
    if (cell.up && cell.failed >= timers.failedChecks)
      lose(cell, at, `${cell.failed} ${cell.failed === 1 ? 'check' : 'checks'} in a row failed`);
    return undefined;
  };

  const fallDue = (cell: Cell) => {
    const { at, what } = cell.due!;
    cell.due = null;
    if (what === 'release') return restore(cell, at, `it has stood for ${timers.holdDown / 1000} s`);
    if (what === 'give-up-transition')
      return lose(cell, at, `in transition for longer than ${timers.transitionLimit / 1000} s`);
    cell.removed = true;
    return turn(cell, 'removed', at, `lost for ${timers.lossTime / 1000} s`);
  };

  /** What all paths together make of a moment. */
  const settle = (at: Milliseconds) => {
    const all = [...cells.values()];
    const usable = all.some((cell) => cell.standing === 'active' || cell.standing === 'enabled');
    const is = flow.at(-1)?.flow;
    if (usable) {
      waitsUntil = null;
      if (is !== 'flows') flow.push({ at, flow: 'flows' });
    } else if (is === undefined || is === 'flows') {
      waitsUntil = timers.noPathWait > 0 ? at + timers.noPathWait : null;
      flow.push({ at, flow: timers.noPathWait > 0 ? 'waits' : 'fails' });
    }
    if (selector !== 'failover') return;
    const chosen = failoverChoice(all, uses.at(-1)?.path ?? null, failback);
    if (uses.length === 0 || uses.at(-1)!.path !== chosen) uses.push({ at, path: chosen });
  };

  settle(from);
  let k = 0;
  for (;;) {
    const next = happenings[k]?.at ?? Infinity;
    const timed = [...cells.values()]
      .filter((cell) => cell.due !== null)
      .sort((a, b) => a.due!.at - b.due!.at || (a.id < b.id ? -1 : 1))[0];
    const due = Math.min(timed?.due?.at ?? Infinity, waitsUntil ?? Infinity);
    const at = Math.min(next, due);
    if (at > until) break;
    if (at === Infinity) break;
    if (due <= next) {
      if (waitsUntil !== null && waitsUntil === at) {
        waitsUntil = null;
        flow.push({ at, flow: 'fails' });
      } else fallDue(timed!);
    } else {
      const one = happenings[k++]!;
      const cell = cells.get(one.path);
      if (cell) happen(cell, one);
    }
    settle(at);
  }

  const all = [...cells.values()];
  const count = (standing: PathStanding) => all.filter((cell) => cell.standing === standing).length;
  const statusNow = () => {
    if (count('active') + count('enabled') === 0) return 'no-path';
    if (count('active') === 0) return 'non-optimized-only';
    return count('failed') + count('removed') > 0 ? 'degraded' : 'healthy';
  };
  const status = statusNow();
  return {
    turns,
    flow,
    uses,
    standing: new Map(all.map((cell) => [cell.id, cell.standing])),
    since: new Map(all.map((cell) => [cell.id, cell.since])),
    status,
  };
}
