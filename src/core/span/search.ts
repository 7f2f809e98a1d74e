import type { EstateView } from '../estate/estate';
import { targetsOf } from '../iscsi/target';
import { arrayDevice, fcid, hostDevice, type FcDevice } from '../fabric/devices';
import { euiOf, hexDigits, nguidOf, uuidOf } from '../naming/identity';
import { driveRef } from '../operation/inquiry';
import type { SelectableKind } from './chain';

export interface Hit {
  kind: SelectableKind | 'alias' | 'zone' | 'zoneSet' | 'cluster' | 'workload';
  id: string;
  name: string;
  /** Where it belongs, and what matched if it was not the name. */
  where: string;
  /** What the drawing marks for it, where it is no part of the drawing itself. */
  marks?: { kind: SelectableKind; id: string };
}

/**
 * Things whose name, IQN, NAA name, serial, address, mount point, FCID or slot contains the text, best first: names that begin with it, then names that hold
 * it, then the rest. Case, prefixes such as `naa.` and `0x`, colons, hyphens and spaces in hexadecimal names do not matter.
 */
export function search(view: EstateView, text: string, limit = 12): Hit[] {
  const wanted = text.trim().toLowerCase();
  if (wanted === '') return [];
  const digits = hexDigits(wanted);
  const ranks: Hit[][] = [[], [], []];
  const offer = (hit: Hit, others: readonly (readonly [string, string])[] = []) => {
    const name = hit.name.toLowerCase();
    if (name.startsWith(wanted)) return ranks[0]!.push(hit);
    if (name.includes(wanted)) return ranks[1]!.push(hit);
    const other = others.find(
      ([, value]) => value.toLowerCase().includes(wanted) || (digits !== null && value.toLowerCase().includes(digits)),
    );
    if (other) ranks[2]!.push({ ...hit, where: `${hit.where}, ${other[0]} ${other[1]}` });
    return 0;
  };
  const arrayName = (id: string) => view.table('array').get(id)?.name ?? '';
  for (const row of view.table('array').values())
    offer(
      { kind: 'array', id: row.id, name: row.name, where: row.model },
      targetsOf(view, row.id).flatMap((target) => [
        ['IQN', target.iqn] as const,
        ...(target.main ? [] : [['target', target.name] as const]),
      ]),
    );
  for (const row of view.table('host').values())
    offer({ kind: 'host', id: row.id, name: row.name, where: view.table('site').get(row.site)?.name ?? '' }, [
      ...view
        .table('initiator')
        .by('host', row.id)
        .map((initiator) => ['initiator', initiator.name] as const),
      ...view
        .table('hostDevice')
        .by('host', row.id)
        .flatMap((device) => (device.mountPoint ? [['mount point', device.mountPoint] as const] : [])),
    ]);
  for (const row of view.table('cluster').values()) {
    const [first] = view.table('host').by('cluster', row.id);
    offer({
      kind: 'cluster',
      id: row.id,
      name: row.name,
      where: `${view.table('host').countBy('cluster', row.id)} hosts`,
      ...(first ? { marks: { kind: 'host', id: first.id } } : {}),
    });
  }
  for (const row of view.table('workload').values())
    offer({ kind: 'workload', id: row.id, name: row.name, where: 'workload' });
  for (const row of view.table('pool').values())
    offer({ kind: 'pool', id: row.id, name: row.name, where: arrayName(row.array) });
  for (const row of view.table('raidGroup').values())
    offer({ kind: 'raidGroup', id: row.id, name: row.name, where: arrayName(row.array) });
  for (const row of view.table('volume').values())
    offer({ kind: 'volume', id: row.id, name: row.name, where: arrayName(row.array) }, [
      ['NAA', row.naa],
      ['NGUID', nguidOf(row.naa)],
      ['EUI-64', euiOf(row.naa)],
      ['UUID', uuidOf(row.naa).replace(/-/g, '')],
      ['serial', row.serial],
    ]);
  for (const row of view.table('network').values())
    offer({ kind: 'network', id: row.id, name: row.name, where: row.cidr }, [['subnet', row.cidr]]);
  for (const row of view.table('port').values())
    offer({ kind: 'port', id: row.id, name: row.name, where: arrayName(row.array) }, [
      ...row.addresses.map((address) => ['address', address.ip] as const),
      ...(row.wwpn ? [['WWPN', row.wwpn] as const] : []),
      ...fcidOf(arrayDevice(view, row)),
    ]);
  for (const row of view.table('interface').values())
    offer(
      {
        kind: 'interface',
        id: row.id,
        name: row.name,
        where: (row.host && view.table('host').get(row.host)?.name) || '',
      },
      [
        ...row.addresses.map((address) => ['address', address.ip] as const),
        ...(row.wwpn ? [['WWPN', row.wwpn] as const] : []),
        ...(row.wwnn ? [['node name', row.wwnn] as const] : []),
        ...fcidOf(hostDevice(view, row)),
      ],
    );
  for (const row of view.table('fabric').values())
    offer({ kind: 'fabric', id: row.id, name: row.name, where: 'fabric' }, []);
  const fabricName = (id: string) => `fabric ${view.table('fabric').get(id)?.name ?? ''}`;
  for (const kind of ['alias', 'zone', 'zoneSet'] as const)
    for (const row of view.table(kind).values())
      offer({
        kind,
        id: row.id,
        name: row.name,
        where: fabricName(row.fabric),
        marks: { kind: 'fabric', id: row.fabric },
      });
  if (/^\d+:\d*$/.test(wanted) || wanted.length >= 4)
    for (const row of view.table('drive').values())
      offer({ kind: 'drive', id: row.id, name: driveRef(view, row), where: arrayName(row.array) }, [
        ['serial', row.serial],
        // As the interface writes it where arrays stand side by side.
        ['slot', `${arrayName(row.array)} ${driveRef(view, row)}`],
      ]);
  return ranks.flat().slice(0, limit);
}

const fcidOf = (device: FcDevice | null): (readonly [string, string])[] =>
  device?.switch ? [['FCID', fcid(device)]] : [];
