import { kindWords, type Kind } from '../estate/entities';
import { rowName } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { referredIds, references } from '../estate/references';
import { takenLuns } from '../attach/luns';
import { bytesIn, within, without } from '../content/runs';
import { mappedRuns } from '../content/weave';
import { storeOf } from '../pool/store';
import { heldNumbers, numbersOf } from '../volume/grow';
import { extentsOf } from '../pool/usage';
import { levelText, shapeOfGroup, usableOf } from '../raid/geometry';

/**
 * What must hold of every estate, in sentences; an empty list when all does. Import refuses an estate that breaks one, and the property
 * tests run random operations against them.
 */
export function brokenInvariants(view: EstateView): string[] {
  return [
    ...danglingReferences(view),
    ...doubledNames(view),
    ...membership(view),
    ...extents(view),
    ...volumes(view),
    ...luns(view),
  ];
}

function danglingReferences(view: EstateView): string[] {
  const broken: string[] = [];
  for (const { from, field, to } of references)
    for (const row of view.table(from).values())
      for (const id of referredIds(row, field))
        if (!view.table(to).get(id))
          broken.push(`${kindWords[from]} ${rowName(from, row)} names ${kindWords[to]} ${id}, which is not there.`);
  return broken;
}

function doubledNames(view: EstateView): string[] {
  const broken: string[] = [];
  for (const kind of [
    'site',
    'array',
    'raidGroup',
    'pool',
    'workload',
    'volume',
    'network',
    'port',
    'cluster',
    'host',
    'fabric',
    'switch',
    'subsystem',
  ] as const satisfies readonly Kind[]) {
    const seen = new Set<string>();
    for (const row of view.table(kind).values()) {
      const key = `${'array' in row ? row.array : ''}\n${row.name.toLowerCase()}`;
      if (seen.has(key)) broken.push(`There are two of ${kindWords[kind]} ${row.name}.`);
      seen.add(key);
    }
  }
  const identities = new Set<string>();
  for (const volume of view.table('volume').values()) {
    if (identities.has(volume.naa)) broken.push(`Two volumes have the identity ${volume.naa}.`);
    identities.add(volume.naa);
  }
  return broken;
}

function membership(view: EstateView): string[] {
  const broken: string[] = [];
  for (const group of view.table('raidGroup').values())
    for (const id of group.drives) {
      const drive = view.table('drive').get(id);
      if (drive && drive.raidGroup !== group.id)
        broken.push(`RAID group ${group.name} names a drive that does not name it.`);
      if (drive && drive.array !== group.array) broken.push(`RAID group ${group.name} spans two arrays.`);
    }
  for (const group of view.table('raidGroup').values()) {
    const shape = shapeOfGroup(group);
    if (usableOf(shape, group.memberSize, group.chunk) !== group.usable)
      broken.push(`RAID group ${group.name} has another size than its ${levelText(shape)} gives.`);
    if (group.moved.some((id) => !group.drives.includes(id)))
      broken.push(`RAID group ${group.name} keeps spare space for a drive that is no member.`);
  }
  for (const drive of view.table('drive').values())
    if (drive.raidGroup && !view.table('raidGroup').get(drive.raidGroup)?.drives.includes(drive.id))
      broken.push(`Drive ${drive.serial} names a group that does not name it.`);
  return broken;
}

function extents(view: EstateView): string[] {
  const broken: string[] = [];
  const byGroup = new Map<string, { start: number; end: number }[]>();
  for (const run of view.table('extent').values()) {
    const list = byGroup.get(run.raidGroup) ?? [];
    list.push({ start: run.start, end: run.start + run.count });
    byGroup.set(run.raidGroup, list);
  }
  for (const [id, runs] of byGroup) {
    const group = view.table('raidGroup').get(id);
    const pool = group?.pool ? view.table('pool').get(group.pool) : undefined;
    if (!group || !pool) {
      broken.push(`Extents lie in ${group?.name ?? id}, which carries no pool.`);
      continue;
    }
    runs.sort((a, b) => a.start - b.start);
    runs.forEach((run, k) => {
      if (run.start < (runs[k - 1]?.end ?? 0)) broken.push(`Extent ${run.start} of ${group.name} is used twice.`);
    });
    if (runs.at(-1)!.end > extentsOf(group.usable, pool.extentSize))
      broken.push(`Extents lie beyond the end of ${group.name}.`);
    const used = runs.reduce((sum, run) => sum + run.end - run.start, 0);
    if (used !== view.occupancy.used(id))
      broken.push(`${group.name} counts ${view.occupancy.used(id)} used extents; ${used} are held.`);
  }
  return broken;
}

function volumes(view: EstateView): string[] {
  const broken: string[] = [];
  for (const pool of view.table('pool').values()) {
    const promised = view
      .table('volume')
      .by('pool', pool.id)
      .reduce((sum, volume) => sum + (volume.deletedAt === null ? volume.size : 0), 0);
    if (promised !== view.occupancy.promised(pool.id))
      broken.push(`Pool ${pool.name} counts another sum of promised sizes than its volumes have.`);
    const store = Math.ceil(storeOf(view, pool).bytes / pool.extentSize);
    if (view.occupancy.allocated(pool.id) !== store)
      broken.push(
        `The reduced store of ${pool.name} holds ${view.occupancy.allocated(pool.id)} extents; its pages need ${store}.`,
      );
  }
  for (const volume of view.table('volume').values()) {
    const pool = view.table('pool').get(volume.pool);
    if (!pool) continue;
    const runs = view.table('extent').by('volume', volume.id);
    if (runs.some((run) => view.table('raidGroup').get(run.raidGroup)?.pool !== pool.id))
      broken.push(`Volume ${volume.name} has extents outside its pool.`);
    const held = heldNumbers(view, volume.id);
    const count = bytesIn(held);
    if (count !== runs.reduce((sum, run) => sum + run.count, 0))
      broken.push(`Volume ${volume.name} holds one of its extents twice.`);
    const whole = Math.ceil(volume.size / pool.extentSize);
    if (volume.provisioning === 'thick' && count !== whole)
      broken.push(`Thick volume ${volume.name} holds ${count} of its ${whole} extents.`);
    if ((held.at(-1)?.[1] ?? 0) > whole) broken.push(`Volume ${volume.name} holds more extents than its size needs.`);
    if (volume.written > volume.size || volume.reducedTo > volume.written)
      broken.push(`Volume ${volume.name} is written beyond its size.`);
    const own = numbersOf(within(mappedRuns(volume), volume.reducedTo, volume.size), pool.extentSize);
    if (bytesIn(without(own, held)) > 0) broken.push(`Volume ${volume.name} is written where it holds no extent.`);
    if (bytesIn(volume.holes) !== bytesIn(within(volume.holes, 0, volume.written)))
      broken.push(`Volume ${volume.name} has holes where it was never written.`);
    if (volume.array !== pool.array) broken.push(`Volume ${volume.name} and its pool are on different arrays.`);
  }
  return broken;
}

function luns(view: EstateView): string[] {
  const broken: string[] = [];
  const seen = new Set<string>();
  for (const mapping of view.table('mapping').values()) {
    const volume = view.table('volume').get(mapping.volume);
    if (!volume || !view.table('host').get(mapping.host)) continue;
    const holder = mapping.subsystem
      ? view
          .table('mapping')
          .by('subsystem', mapping.subsystem)
          .find((row) => row.lun === mapping.lun)?.volume
      : takenLuns(view, mapping.host, volume.array, mapping.ports).get(mapping.lun);
    if (holder !== volume.id)
      broken.push(`${mapping.subsystem ? 'Namespace' : 'LUN'} ${mapping.lun} names two volumes for one initiator.`);
    const nexus = `${mapping.host} ${mapping.volume}`;
    if (seen.has(nexus)) broken.push(`Volume ${volume.name} is mapped twice to one host.`);
    seen.add(nexus);
  }
  return broken;
}
