import type { EstateView } from '../estate/estate';
import { siteOf } from '../estate/relations';
import { auditFabric } from '../fabric/audit';
import { chosenSet, compareZones } from '../fabric/compare';
import { fcDevices, loggedIn } from '../fabric/devices';
import { trunkLoads } from '../fabric/load';
import { byName } from '../operation/draft';
import { plural, type FactLine, type Told } from './facts-lines';
import { postOf } from './posts';

export function fabricFacts(view: EstateView, id: string): Told {
  const fabric = view.table('fabric').get(id)!;
  const switches = [...view.table('switch').by('fabric', id)].sort(byName);
  const devices = fcDevices(view).filter((device) => device.fabric === id);
  const logins = devices.filter(loggedIn);
  const set = chosenSet(view, fabric);
  const waiting = set ? compareZones(view, set) : [];
  const audit = auditFabric(view, fabric);
  const down = switches.filter((row) => row.state === 'down');
  const trunks = trunkLoads(view).filter((trunk) => trunk.a.fabric === id);
  return {
    name: `Fabric ${fabric.name}`,
    post: postOf(down.length === switches.length && switches.length > 0, down.length > 0),
    line: `${plural(switches.length, 'switch').replace('switchs', 'switches')}, ${plural(logins.length, 'login')}`,
    verbs: [
      { label: 'Join a host', do: 'zoning.join', params: { fabric: fabric.name } },
      ...(set
        ? [{ label: 'Activate', do: 'zone-set.activate', params: { fabric: fabric.name, zoneSet: set.name } }]
        : []),
    ],
    cells: [
      {
        title: 'Zoning',
        rows: [
          { label: 'Active set', value: fabric.activeSet ?? 'none' },
          { label: 'Zones', value: `${view.table('activeZone').countBy('fabric', id)} active` },
          { label: 'Default zone', value: fabric.defaultZone === 'deny' ? 'denies' : 'permits' },
          { label: 'Not active', value: plural(waiting.length, 'change') },
        ],
      },
      {
        title: 'Switches',
        lines: switches.map((row): FactLine => ({
          post: row.state === 'up' ? 'stands' : 'broken',
          text: row.name,
          more: `domain ${row.domain}, ${siteOf(view, row).name}`,
        })),
      },
      {
        title: 'Between them',
        lines: trunks.map((trunk): FactLine => ({
          post: postOf(
            trunk.carries === 0 && trunk.links.some((isl) => isl.state !== 'up'),
            trunk.links.some((isl) => isl.state !== 'up'),
          ),
          text: `${trunk.a.name} to ${trunk.b.name}`,
          more: `${plural(trunk.links.length, 'link')}, ${trunk.carries} Gb/s, ${trunk.ratio.toFixed(1)}:1`,
        })),
      },
      {
        title: 'Audit',
        lines:
          audit.length === 0
            ? [{ post: 'stands', text: 'Nothing to mend.' }]
            : audit.slice(0, 4).map((line): FactLine => ({ post: 'leans', text: line.says })),
      },
    ],
  };
}
