import { legOf } from '../copies/legs';
import type { EstateView } from '../estate/estate';
import { hostOf, interfaceOf, volumeOf } from '../estate/relations';
import type { Milliseconds } from '../units/duration';
import { RESTART_TIME } from './device-state';
import { pathFinder, wayOf, type Path } from './paths';
import { noticedAfter } from './selector';

/** A path that changed as its host sees it. */
export interface PathEvent {
  at: Milliseconds;
  host: string;
  array: string;
  interface: string;
  port: string;
  before: 'optimized' | 'non-optimized' | 'unavailable' | 'down';
  after: 'optimized' | 'non-optimized' | 'unavailable' | 'down';
  reason: string;
  /** Until the host had noticed and gone on by another path. */
  noticedAfter: Milliseconds;
}

const keyOf = (path: { interface: string; port: string }): string => `${path.interface} ${path.port}`;

/** Sessions that came, went or changed state between two estates, once a host, array and pair of ports; the worst volume of the pair decides. */
export function pathEvents(before: EstateView, after: EstateView, now: Milliseconds): PathEvent[] {
  const [old, fresh] = [pathFinder(before), pathFinder(after)];
  const events = new Map<string, PathEvent>();
  const seen = new Set<string>();
  for (const mapping of after.table('mapping').values()) {
    const known = before.table('mapping').get(mapping.id);
    if (!known) continue;
    const host = hostOf(after, mapping);
    const { array, owner } = volumeOf(after, mapping);
    // Volumes of one owner that go by the same ports see the same.
    const stretched = legOf(after, mapping.volume) !== null;
    const way = `${wayOf(after, mapping)} ${owner} ${stretched}`;
    if (seen.has(way)) continue;
    seen.add(way);
    const was = new Map(old.paths(known).found.map((path) => [keyOf(path), path]));
    const now_ = fresh.paths(mapping);
    const is = new Map(now_.found.map((path) => [keyOf(path), path]));
    const why = new Map(now_.missing.map((gap) => [keyOf(gap), gap.message]));
    for (const key of new Set([...was.keys(), ...is.keys()])) {
      const [a, b] = [was.get(key), is.get(key)];
      const path = (a ?? b)!;
      const id = `${host.id} ${array} ${key}`;
      const restarted =
        a !== undefined && b !== undefined && host.restarts > (before.table('host').get(host.id)?.restarts ?? 0);
      if (events.has(id) || (a?.state === b?.state && !restarted)) continue;
      // How a stretched volume is served is its own matter, not that of every volume behind these ports.
      if (stretched && a && b && !restarted) continue;
      if (restarted) {
        const ends = { host: host.id, array, interface: path.interface, port: path.port, noticedAfter: 0 };
        events.set(id, {
          ...ends,
          at: now - RESTART_TIME,
          before: stateOf(a),
          after: 'down',
          reason: 'the host restarts',
        });
        events.set(`${id} back`, { ...ends, at: now, before: 'down', after: stateOf(b), reason: 'the host is back' });
        continue;
      }
      const atHost = interfaceOf(after, path).state === 'down' || interfaceOf(before, path).state === 'down';
      events.set(id, {
        at: now,
        host: host.id,
        array,
        interface: path.interface,
        port: path.port,
        before: stateOf(a),
        after: stateOf(b),
        reason: b ? cameBy(a !== undefined) : (why.get(key) ?? 'the session ended'),
        noticedAfter: b
          ? 0
          : Math.min(noticedAfter(host, path.transport, atHost), host.lossTime || Number.MAX_SAFE_INTEGER),
      });
    }
  }
  return [...events.values()];
}

function stateOf(path: Path | undefined): PathEvent['before'] {
  if (!path) return 'down';
  return path.state === 'transitioning' ? 'unavailable' : path.state;
}

const cameBy = (wasThere: boolean): string =>
  wasThere ? 'the volume is served by another controller' : 'logged in again';
