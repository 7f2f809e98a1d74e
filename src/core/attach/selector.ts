import type { Host, HostDevice, PathSelector } from '../estate/entities';
import { failoverChoice } from './path-machine';
import type { Path } from './paths';

export const selectorOf = (host: Host, device: HostDevice | undefined): PathSelector =>
  device?.selector ?? host.selector;

const standings = {
  optimized: 'active',
  'non-optimized': 'enabled',
  transitioning: 'standby',
  unavailable: 'standby',
} as const;

/** Which of a device's paths failover uses: the one in use while it will do, else the heaviest (attach F4); -1 where none can be used. */
export function failoverPath(
  paths: readonly Path[],
  device: Pick<HostDevice, 'weights' | 'current'> | undefined,
  failback: boolean,
): number {
  const weight = (path: Path) =>
    device?.weights.find((one) => one.interface === path.interface && one.port === path.port)?.weight ?? 0;
  const choices = paths.map((path) => ({
    id: endsOf(path),
    standing: standings[path.state],
    weight: weight(path),
  }));
  const chosen = failoverChoice(choices, device?.current ? endsOf(device.current) : null, failback);
  return choices.findIndex((choice) => choice.id === chosen);
}

/** A path by its ends. */
export const endsOf = (path: { interface: string; port: string }): string => `${path.interface} ${path.port}`;

/** What the selectors that look at load need to know of a path. */
export interface PathLoad {
  /** Commands under way, and bytes of them. */
  outstanding: number;
  /** MB/s it has shown. */
  throughput: number;
  /** Which command it last took, counted from 1; without it never. */
  usedAt?: number;
}

/**
 * Share of the I/O that each path carries in the steady state, 0 to 1 and 1 in all: only paths of the best class that is there (optimized, else
 * non-optimized). Failover uses one alone, `uses` or else the first; round robin and queue depth share evenly between equals; service time by throughput.
 */
export function ioShares(
  paths: readonly Path[],
  selector: PathSelector,
  throughput: (path: Path) => number = () => 1,
  uses?: number,
): number[] {
  const best = (['optimized', 'non-optimized'] as const).find((state) => paths.some((path) => path.state === state));
  const candidate = paths.map((path) => path.state === best);
  const count = candidate.filter(Boolean).length;
  if (count === 0) return paths.map(() => 0);
  if (selector === 'failover') return paths.map((_, k) => (k === (uses ?? candidate.indexOf(true)) ? 1 : 0));
  if (selector !== 'service-time') return candidate.map((is) => (is ? 1 / count : 0));
  const weights = paths.map((path, k) => (candidate[k] ? throughput(path) : 0));
  const sum = weights.reduce((total, weight) => total + weight, 0);
  return sum === 0 ? candidate.map((is) => (is ? 1 / count : 0)) : weights.map((weight) => weight / sum);
}

/** The shares of a device at its host. */
export function deviceShares(paths: readonly Path[], host: Host, device: HostDevice | undefined): number[] {
  const selector = selectorOf(host, device);
  const uses = selector === 'failover' ? failoverPath(paths, device, host.failback) : -1;
  return ioShares(paths, selector, undefined, uses < 0 ? undefined : uses);
}

/** Which path the next command takes. `turn` counts commands so far, of which round robin gives each path `switchAfter` in a row; ties go to the one used longest ago, then to the first. */
export function nextPath(
  paths: readonly Path[],
  selector: PathSelector,
  turn: number,
  loads: readonly PathLoad[],
  size = 0,
  switchAfter = 1,
): number | null {
  const best = (['optimized', 'non-optimized'] as const).find((state) => paths.some((path) => path.state === state));
  const candidates = paths.flatMap((path, k) => (path.state === best ? [k] : []));
  if (candidates.length === 0) return null;
  if (selector === 'failover') return candidates[0]!;
  if (selector === 'round-robin') return candidates[Math.floor(turn / switchAfter) % candidates.length]!;
  const cost = (k: number) =>
    selector === 'queue-depth' ? loads[k]!.outstanding : (loads[k]!.outstanding + size) / loads[k]!.throughput;
  const usedAt = (k: number) => loads[k]!.usedAt ?? 0;
  return candidates.reduce((least, k) =>
    cost(k) < cost(least) || (cost(k) === cost(least) && usedAt(k) < usedAt(least)) ? k : least,
  );
}

/** Milliseconds until a host notices that a path is lost, and uses another. */
export function noticedAfter(host: Host, transport: Path['transport'], atHost: boolean): number {
  // A cable pulled at the host is seen at once; the fabric tells of changes (RSCN); over TCP only silence does.
  if (atHost) return 0;
  if (transport === 'fc') return 200;
  if (transport === 'iscsi') return 15_000;
  return host.keepAlive === 0 ? Number.POSITIVE_INFINITY : host.keepAlive;
}
