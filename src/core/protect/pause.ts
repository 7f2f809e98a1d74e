import type { AgentState, Host, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { hash32 } from '../estate/random';
import { hostOf } from '../estate/relations';
import { someOf } from '../units/counted';
import { SECOND, type Milliseconds } from '../units/duration';
import { quiesce, type ConsistencyLabel, type QuiesceTimes } from './consistency';

/** How long an application may take to pause, writes may be held, and the agent may take to tell that it goes on; seconds (choices of protect.md E). */
export const FREEZE_S = 20;
export const HOLD_S = 5;
export const THAW_S = 15;

/** What came of asking applications to pause for a cut. */
export interface Paused {
  /** Null where no copy may be made of it. */
  label: ConsistencyLabel | null;
  /** Why it is no better, in words; null where it is as good as can be. */
  reason: string | null;
  took: Milliseconds;
}

/** Hosts that have one of the volumes mounted, by name. */
export function usersOf(view: EstateView, volumes: readonly Volume[]): Host[] {
  const hosts = new Set<Host>();
  for (const volume of volumes)
    for (const device of view.table('hostDevice').by('volume', volume.id))
      if (device.mountPoint !== null) hosts.add(hostOf(view, device));
  return [...hosts].sort((a, b) => (a.name < b.name ? -1 : 1));
}

/** How the simulated agents answer, in seconds; null for never. */
const answers: Record<AgentState, { freeze: number | null; thaw: number | null }> = {
  none: { freeze: null, thaw: null },
  ready: { freeze: 2, thaw: 1 },
  absent: { freeze: null, thaw: null },
  slow: { freeze: 26, thaw: 2 },
  silent: { freeze: 3, thaw: null },
};

const words = {
  'freeze-timeout': (host: string) => `the agent at ${host} did not pause its application within ${FREEZE_S} s`,
  'hold-exceeded': (host: string) => `writes of ${host} would have been held for more than ${HOLD_S} s`,
  'thaw-unconfirmed': (host: string) =>
    `the agent at ${host} did not tell that its application goes on; it may still be paused`,
  'freeze-expired': (host: string) => `the application at ${host} went on before the cut was made`,
} as const;

/** One host is asked; the label is never better than what it confirmed. */
function pausedHost(host: Host, members: number, at: Milliseconds, onTimeout: QuiesceTimes['onTimeout']): Paused {
  if (host.agent === 'none')
    return onTimeout === 'fail'
      ? { label: null, reason: `no agent at ${host.name} could pause its application`, took: 0 }
      : { label: 'crash', reason: `no agent at ${host.name} could pause its application`, took: 0 };
  const { freeze, thaw } = answers[host.agent];
  const cutS = 0.3 + 0.2 * members;
  const freezeAckS = freeze === null ? null : freeze + (hash32(`${host.id} ${at}`) % 20) / 10;
  const { label, reason } = quiesce({
    freezeAckS,
    cutS,
    thawAckS: thaw,
    freezeTimeoutS: FREEZE_S,
    holdMaxS: HOLD_S,
    thawTimeoutS: THAW_S,
    onTimeout,
  });
  const seconds = Math.min(freezeAckS ?? FREEZE_S, FREEZE_S) + cutS + Math.min(thaw ?? THAW_S, THAW_S);
  return { label, reason: reason && words[reason](host.name), took: Math.ceil(seconds * SECOND) };
}

/**
 * Pauses what runs on the hosts of some volumes for the moment of a cut. Hosts are asked side by side; the copy is application-consistent only
 * where each confirmed.
 */
export function pausedFor(
  view: EstateView,
  volumes: readonly Volume[],
  { quiesce: wanted, onTimeout }: { quiesce: boolean; onTimeout: QuiesceTimes['onTimeout'] },
  at: Milliseconds,
): Paused {
  const took = Math.ceil((0.3 + 0.2 * volumes.length) * SECOND);
  if (!wanted) return { label: 'crash', reason: null, took };
  const hosts = usersOf(view, volumes).filter((host) => host.application !== 'none');
  if (hosts.length === 0) return { label: 'crash', reason: 'no application is known at its hosts', took };
  const each = hosts.map((host) => pausedHost(host, volumes.length, at, onTimeout));
  const longest = Math.max(took, ...each.map((one) => one.took));
  const failed = each.filter((one) => one.label === null);
  const worse = failed.length > 0 ? failed : each.filter((one) => one.label !== 'application');
  const label = worse.length > 0 ? 'crash' : 'application';
  return {
    label: failed.length > 0 ? null : label,
    reason: worse.length > 0 ? someOf(worse.flatMap(({ reason }) => reason ?? [])) : null,
    took: longest,
  };
}
