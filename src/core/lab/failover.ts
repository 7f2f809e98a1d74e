import { pathFinder } from '../attach/paths';
import { endsOf, failoverPath, selectorOf } from '../attach/selector';
import { changed, type Effect } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { hostOf } from '../estate/relations';

/** Devices that use one path alone take another where theirs is lost or no longer the best, and stay with the one they have where it will do. */
export function failovers(view: EstateView): { effects: Effect[]; said: string[] } {
  const effects: Effect[] = [];
  const said: string[] = [];
  const finder = pathFinder(view);
  for (const device of view.table('hostDevice').values()) {
    const host = hostOf(view, device);
    if (selectorOf(host, device) !== 'failover') continue;
    const { found } = finder.of(device);
    const path = found[failoverPath(found, device, host.failback)];
    // Where no path is left the last one is remembered: it is the first to be tried.
    if (!path || (device.current && endsOf(device.current) === endsOf(path))) continue;
    const { interface: from, port } = path;
    effects.push(changed('hostDevice', device, { current: { interface: from, port } }));
    if (device.current)
      said.push(
        `${host.name} goes on by ${view.table('interface').get(from)?.name} to ${view.table('port').get(port)?.name} for ${device.name}`,
      );
  }
  return { effects, said };
}
