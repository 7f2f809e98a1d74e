import { mappingsOf } from '../../copies/legs';
import { families } from '../../attach/families';
import { nextFreeLun } from '../../attach/luns';
import { readOnlyWhy, readOnlyDevice } from '../../attach/write-access';
import type { Mapping, Volume } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { arrayOf } from '../../estate/relations';
import { offer, type Check, type Found } from '../finding';
import { arrayName } from '../each';
import { aboutHost } from './context';
import { hostOf, volumeOf } from '../../estate/relations';

const aboutVolume = (view: EstateView, volume: Volume) => ({
  kind: 'volume' as const,
  id: volume.id,
  name: `${arrayOf(view, volume).name} ${volume.name}`,
});
const renumber = (view: EstateView, mapping: Mapping, lun: number | null) => {
  const volume = volumeOf(view, mapping);
  return offer('Renumber', 'mapping.configure', {
    host: hostOf(view, mapping).name,
    array: arrayName(view, volume),
    volume: volume.name,
    ...(lun === null ? {} : { lun: String(lun) }),
  });
};
const unmap = (view: EstateView, mapping: Mapping) => {
  const volume = volumeOf(view, mapping);
  return offer('Take a mapping away', 'mapping.delete', {
    host: hostOf(view, mapping).name,
    array: arrayName(view, volume),
    volumes: [volume.name],
  });
};

const meet = (a: Mapping, b: Mapping): boolean =>
  a.target === b.target && (a.ports === null || b.ports === null || a.ports.some((port) => b.ports!.includes(port)));

/** Looks at each volume that more than one mapping shows. */
const eachShared = (
  look: (view: EstateView, volume: Volume, mappings: readonly Mapping[]) => Iterable<Found>,
): Check['find'] =>
  function* (view) {
    for (const volume of view.table('volume').values()) {
      yield null;
      if (view.table('mapping').countBy('volume', volume.id) < 2) continue;
      yield* look(view, volume, view.table('mapping').by('volume', volume.id));
    }
  };

export const mappingChecks: Check[] = [
  {
    id: 'not-mapped',
    severity: 'error',
    title: 'Members that miss a volume of their cluster',
    *find(view) {
      for (const cluster of view.table('cluster').values()) {
        yield null;
        const members = view.table('host').by('cluster', cluster.id);
        const byVolume = new Map<string, Mapping[]>();
        for (const host of members)
          for (const mapping of view.table('mapping').by('host', host.id))
            byVolume.set(mapping.volume, [...(byVolume.get(mapping.volume) ?? []), mapping]);
        for (const mappings of byVolume.values()) {
          const seeing = new Set(mappings.map((mapping) => mapping.host)).size;
          if (seeing < 2 || seeing === members.length) continue;
          const volume = volumeOf(view, mappings[0]!);
          const without = members.filter((host) => !mappings.some((mapping) => mapping.host === host.id));
          yield {
            subject: aboutVolume(view, volume),
            says: `${volume.name} is shown to ${seeing} of ${members.length} members of ${cluster.name}; ${without.map((host) => host.name).join(', ')} ${without.length === 1 ? 'does' : 'do'} not see it.`,
            advice: 'Map it to the whole cluster.',
            mend: offer('Map it', 'mapping.create', {
              cluster: cluster.name,
              array: arrayName(view, volume),
              volumes: [volume.name],
            }),
          };
        }
      }
    },
  },
  {
    id: 'write-protected',
    severity: 'warning',
    title: 'Hosts that write where they may only read',
    *find(view) {
      for (const device of view.table('hostDevice').values()) {
        yield null;
        if (device.mountPoint === null || !(device.readOnly || device.writeRate > 0)) continue;
        const [mapping] = mappingsOf(view, device.host, device.volume);
        const bar = readOnlyDevice(view, device);
        if (!mapping || (bar === null && !device.readOnly)) continue;
        // Whoever never wrote to it was meant to read.
        if (device.used === 0) continue;
        const host = hostOf(view, mapping);
        const volume = volumeOf(view, mapping);
        yield {
          subject: aboutHost(host),
          says:
            bar === null
              ? `${device.mountPoint} of ${host.name} stands read-only since a write was refused.`
              : `${host.name} may only read ${volume.name}: it ${bar}. Its writes to ${device.mountPoint} fail.`,
          advice: bar === null ? 'Unmount it and mount it again.' : 'Let it write, or leave it unmounted there.',
          mend:
            bar === null
              ? offer('Unmount it', 'host-device.unmount', { host: host.name, device: device.name })
              : mapping.access === 'read-only'
                ? offer('Let it write', 'mapping.configure', {
                    host: host.name,
                    array: arrayName(view, volume),
                    volume: volume.name,
                    access: 'read-write',
                  })
                : null,
        };
      }
    },
  },
  {
    id: 'lun-taken',
    severity: 'error',
    title: 'LUNs that show two volumes',
    *find(view, { attach }) {
      for (const { host, array, mappings } of attach().pairings()) {
        yield null;
        const byLun = new Map<number, Mapping[]>();
        for (const mapping of mappings)
          if (mapping.subsystem === null) byLun.set(mapping.lun, [...(byLun.get(mapping.lun) ?? []), mapping]);
        for (const [lun, same] of byLun) {
          const [first, ...others] = same;
          const clash = others.find((other) => other.volume !== first!.volume && meet(first!, other));
          if (!clash) continue;
          yield {
            subject: aboutHost(host),
            says: `LUN ${lun} shows ${volumeOf(view, first!).name} and ${volumeOf(view, clash).name} of ${array.name} to ${host.name}.`,
            advice: 'Give one of them the next free LUN.',
            mend: renumber(view, clash, nextFreeLun(view, host, array.id, clash.ports, 0, clash.target)),
          };
        }
      }
    },
  },
  {
    id: 'volume-mapped-twice',
    severity: 'error',
    title: 'Volumes seen twice by a host',
    find: eachShared(function* (view, volume, mappings) {
      const twice = mappings.find((one) =>
        mappings.some(
          (other) => other.id !== one.id && other.host === one.host && other.lun !== one.lun && meet(one, other),
        ),
      );
      const other = twice && mappings.find((one) => one.id !== twice.id && one.host === twice.host);
      if (twice && other)
        yield {
          subject: aboutVolume(view, volume),
          says: `${volume.name} is LUN ${twice.lun} and ${other.lun} at ${hostOf(view, twice).name}.`,
          advice: 'Take one of the two away.',
          mend: unmap(view, other),
        };
    }),
  },
  {
    id: 'cluster-lun-differs',
    severity: 'error',
    title: 'Clusters that see a volume by several LUNs',
    find: eachShared(function* (view, volume, mappings) {
      const byCluster = new Map<string, Mapping[]>();
      for (const mapping of mappings) {
        const { cluster } = hostOf(view, mapping);
        if (cluster && mapping.subsystem === null) byCluster.set(cluster, [...(byCluster.get(cluster) ?? []), mapping]);
      }
      for (const [id, same] of byCluster) {
        const counts = new Map<number, number>();
        for (const { lun } of same) counts.set(lun, (counts.get(lun) ?? 0) + 1);
        if (counts.size < 2) continue;
        const [usual] = [...counts].sort((a, b) => b[1] - a[1] || a[0] - b[0])[0]!;
        const odd = same.filter((mapping) => mapping.lun !== usual);
        yield {
          subject: aboutVolume(view, volume),
          says: `${volume.name} in cluster ${view.table('cluster').get(id)!.name}: ${same.map((mapping) => `${hostOf(view, mapping).name} LUN ${mapping.lun}`).join(', ')}.`,
          advice: 'Renumber it: some hosts rely on one number.',
          mend: renumber(view, odd[0]!, usual),
        };
      }
    }),
  },
  {
    id: 'shared-unclustered',
    severity: 'error',
    title: 'Volumes that several hosts may write',
    find: eachShared(function* (view, volume, mappings) {
      if (volume.shared) return;
      const writers = mappings.filter((mapping) => mapping.access === 'read-write');
      const clusters = new Set(writers.map((mapping) => hostOf(view, mapping).cluster ?? mapping.host));
      if (clusters.size < 2) return;
      const names = [...new Set(writers.map((mapping) => hostOf(view, mapping).name))];
      yield {
        subject: aboutVolume(view, volume),
        says: `${names.join(' and ')} may all write to ${volume.name}, are no cluster, and will corrupt it.`,
        advice: 'Take a mapping away, make them a cluster, or mark the volume as shared.',
        mend: unmap(view, writers[1]!),
      };
    }),
  },
  {
    id: 'lun-differs-by-port',
    severity: 'warning',
    title: 'Volumes whose LUN hangs on the port',
    find: eachShared(function* (view, volume, mappings) {
      const one = mappings.find((mapping) =>
        mappings.some((other) => other.host === mapping.host && other.lun !== mapping.lun && !meet(mapping, other)),
      );
      const other = one && mappings.find((row) => row.host === one.host && row.lun !== one.lun);
      if (one && other)
        yield {
          subject: aboutVolume(view, volume),
          says: `${volume.name} is LUN ${one.lun} at ${hostOf(view, one).name} by some ports and LUN ${other.lun} by others.`,
          advice: 'Renumber it: some hosts take them for two disks.',
          mend: renumber(view, other, one.lun),
        };
    }),
  },
  {
    id: 'shared-read-only',
    severity: 'warning',
    title: 'Volumes that one host writes and others read',
    find: eachShared(function* (view, volume, mappings) {
      const readers = mappings.filter((mapping) => readOnlyWhy(view, mapping) !== null);
      const writers = new Set(
        mappings.filter((mapping) => !readers.includes(mapping)).map((mapping) => hostOf(view, mapping).name),
      );
      const names = [...new Set(readers.map((mapping) => hostOf(view, mapping).name))].filter(
        (name) => !writers.has(name),
      );
      if (volume.shared || writers.size === 0 || names.length === 0) return;
      yield {
        subject: aboutVolume(view, volume),
        says: `${[...writers].join(' and ')} ${writers.size === 1 ? 'writes' : 'write'} to ${volume.name} while ${names.join(' and ')} ${names.length === 1 ? 'reads' : 'read'} it: what ${names.length === 1 ? 'it reads' : 'they read'} may be out of date or half written.`,
        advice: 'Give the readers a copy, or take their mappings away.',
        mend: unmap(view, readers[0]!),
      };
    }),
  },
  {
    id: 'rights-conflict',
    severity: 'error',
    title: 'Mappings with other rights',
    find: eachShared(function* (view, volume, mappings) {
      const clash = mappings.find((one) =>
        mappings.some((other) => other.host === one.host && other.access !== one.access && meet(one, other)),
      );
      if (clash)
        yield {
          subject: aboutVolume(view, volume),
          says: `${hostOf(view, clash).name} may write to ${volume.name} by one mapping and only read by another.`,
          advice: 'Choose one.',
          mend: unmap(view, clash),
        };
    }),
  },
  {
    id: 'no-lun-zero',
    severity: 'note',
    title: 'Hosts that see no LUN 0',
    *find(view, { attach }) {
      for (const { host, array, mappings } of attach().pairings()) {
        yield null;
        const views = new Map<string | null, Mapping[]>();
        for (const mapping of mappings)
          if (mapping.subsystem === null) views.set(mapping.target, [...(views.get(mapping.target) ?? []), mapping]);
        for (const [target, seen] of views) {
          if (seen.some((mapping) => mapping.lun === 0)) continue;
          const [lowest] = [...seen].sort((a, b) => a.lun - b.lun);
          const by = target ? ` by target ${view.table('target').get(target)?.name}` : '';
          yield {
            subject: aboutHost(host),
            says: `${host.name} sees LUNs of ${array.name}${by} from ${lowest!.lun} on: some hosts look no further than LUN 0.`,
            advice: 'Give one volume LUN 0.',
            mend: renumber(view, lowest!, 0),
          };
          break;
        }
      }
    },
  },
  {
    id: 'boot-lun-moved',
    severity: 'warning',
    title: 'Boot volumes that are not the lowest LUN',
    *find(view) {
      for (const volume of view.table('volume').values()) {
        yield null;
        if (!volume.boot) continue;
        for (const mapping of view.table('mapping').by('volume', volume.id)) {
          if (mapping.subsystem !== null) continue;
          const host = hostOf(view, mapping);
          const lowest = view
            .table('mapping')
            .by('host', host.id)
            .filter(
              (one) =>
                one.subsystem === null && one.target === mapping.target && volumeOf(view, one).array === volume.array,
            )
            .reduce((least, one) => (one.lun < least.lun ? one : least), mapping);
          if (lowest.lun === mapping.lun) continue;
          yield {
            subject: aboutVolume(view, volume),
            says: `${host.name} starts from ${volume.name}, which is LUN ${mapping.lun}; ${volumeOf(view, lowest).name} comes before it as LUN ${lowest.lun}.`,
            advice: 'Give the boot volume the lowest LUN.',
            mend: renumber(view, mapping, null),
          };
        }
      }
    },
  },
  {
    id: 'lun-out-of-range',
    severity: 'error',
    title: 'LUNs a host cannot address',
    *find(view) {
      for (const mapping of view.table('mapping').values()) {
        yield null;
        const host = hostOf(view, mapping);
        const most = families[host.os].maxLun;
        if (mapping.subsystem !== null || mapping.lun <= most) continue;
        const volume = volumeOf(view, mapping);
        yield {
          subject: aboutVolume(view, volume),
          says: `${volume.name} is LUN ${mapping.lun} at ${host.name}, which addresses LUNs up to ${most}.`,
          advice: 'Give it a lower number.',
          mend: renumber(view, mapping, nextFreeLun(view, host, volume.array, mapping.ports, 0, mapping.target)),
        } satisfies Found;
      }
    },
  },
];
