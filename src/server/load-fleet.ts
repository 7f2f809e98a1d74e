import { isOwn } from '@/core/estate/own';
import { SLOT, SLOT_S } from '@/core/performance/choices';
import { addRow, emptyRow, scaledRow, type LoadRow } from '@/core/performance/row';
import { measureOf, type LoadSummary } from '@/core/performance/top';
import type { Attention, FleetAnswer } from '@/core/performance/answers';
import { poolUsage } from '@/core/pool/usage';
import { type Milliseconds } from '@/core/units/duration';
import { formatCount, formatWait } from '@/core/units/figures';
import type { Plant } from './plant';

import { rowsOf, spanOf, summaryOf, volumesOf } from './load-spans';

/** The first page: what needs somebody, sums, and every volume, workload, pool, array and host with its figures. */
export function fleet(plant: Plant, seconds: number, until: Milliseconds | null): FleetAnswer {
  const { from, to } = spanOf(plant, seconds, until);
  const rows = rowsOf(plant, from, to);
  const { estate } = plant;
  const subjects: FleetAnswer['subjects'] = { volume: [], workload: [], pool: [], array: [], host: [] };
  const sums = { volumes: 0, iops: 0, bytesPerS: 0, unserved: 0, usedBytes: 0, sizeBytes: 0 };
  for (const pool of estate.table('pool').values()) {
    if (!isOwn(estate, pool)) continue;
    const usage = poolUsage(estate, pool);
    sums.usedBytes += usage.usedBytes;
    sums.sizeBytes += usage.size;
  }
  const groups = new Map<string, LoadRow>();
  const add = (id: string | null, row: LoadRow) => {
    if (id === null) return;
    let sum = groups.get(id);
    if (!sum) groups.set(id, (sum = emptyRow()));
    // Things that go on side by side last no longer than one of them.
    const { slots } = sum;
    addRow(sum, row);
    sum.slots = Math.max(slots, row.slots);
  };
  for (const volume of estate.table('volume').values()) {
    const row = rows.get(volume.id);
    if (!row || volume.deletedAt !== null) continue;
    const pool = estate.table('pool').get(volume.pool)!;
    const array = estate.table('array').get(volume.array)!;
    const one = summaryOf(
      volume.id,
      volume.name,
      `${array.name} ${pool.name}`,
      volume.size > 0 ? volume.written / volume.size : null,
      row,
    );
    subjects.volume.push(one);
    sums.volumes += 1;
    sums.iops += one.iops;
    sums.bytesPerS += one.bytesPerS;
    sums.unserved += one.unserved;
    add(volume.workload, row);
    add(volume.pool, row);
    add(volume.array, row);
    const hosts = new Set(
      estate
        .table('hostDevice')
        .by('volume', volume.id)
        .map((device) => device.host),
    );
    // Hosts that work with one volume ask it alike.
    for (const host of hosts) add(host, scaledRow(row, 1 / hosts.size));
  }
  for (const [id, row] of groups) {
    const of = volumesOf(plant, id);
    if (of) subjects[of.kind].push(summaryOf(id, of.name, '', null, row));
  }
  const present = plant.telemetry.present();
  const resources = present.resources.flatMap(({ id, name, kind, array, capacity, limit }) => {
    const row = rows.get(id);
    return row && row.slots > 0
      ? [
          {
            id,
            name,
            kind,
            array,
            rho: row.used / (row.slots * SLOT_S) / capacity,
            mostRho: row.mostRho,
            mostRhoAt: row.mostRhoAt * SLOT,
            limit,
          },
        ]
      : [];
  });
  return {
    now: plant.lab.now,
    from,
    to,
    attention: attentionTo(subjects.volume, resources),
    sums,
    subjects,
    resources,
  };
}

/** Waits that begin within so long of each other are taken as one event. */
const AT_ONCE = 30_000;

/** What needs somebody: whose worst five seconds are far from their mean, who was held back or not served for long, what is busy. */
function attentionTo(volumes: readonly LoadSummary[], resources: FleetAnswer['resources']): Attention[] {
  const found: (Attention & { weight: number })[] = [];
  const spikes = volumes
    .filter(
      ({ latencyS, mostLatencyS, held }) =>
        latencyS !== null && mostLatencyS > 10 * latencyS && mostLatencyS > 0.02 && held <= 0.2,
    )
    .sort((a, b) => b.mostLatencyS - a.mostLatencyS || (a.id < b.id ? -1 : 1));
  const told = new Set<string>();
  for (const one of spikes) {
    if (told.has(one.id)) continue;
    const struck = spikes.filter((other) => Math.abs(other.mostLatencyAt - one.mostLatencyAt) <= AT_ONCE);
    for (const { id } of struck) told.add(id);
    const others = struck.filter(({ id }) => id !== one.id);
    found.push({
      says: `${one.name} waited ${formatWait(one.mostLatencyS)} at its worst; its mean of ${formatWait(one.latencyS!)} hides it`,
      of: one.id,
      at: one.mostLatencyAt,
      severe: true,
      others: others.map(({ id, name }) => ({ id, name })),
      weight: 10 + measureOf(one, 'latency', 'most'),
    });
  }
  for (const one of volumes) {
    if (one.held > 0.2)
      found.push({
        says: `${one.name} is held back by its limit in ${Math.round(one.held * 100)} % of what it does`,
        of: one.id,
        at: null,
        severe: false,
        others: [],
        weight: one.held,
      });
    else if (one.unserved > 0.01 * one.iops && one.unserved > 1 && !told.has(one.id))
      found.push({
        says: `${formatCount(one.unserved)} I/O/s of ${one.name} are not served`,
        of: one.id,
        at: one.mostLatencyAt || null,
        severe: true,
        others: [],
        weight: 5,
      });
  }
  for (const { id, name, rho, limit } of resources)
    if (rho > limit)
      found.push({
        says: `${name} is busy ${Math.round(rho * 100)} %, over the ${Math.round(limit * 100)} % it is good for`,
        of: id,
        at: null,
        severe: true,
        others: [],
        weight: 8 + rho,
      });
  return found
    .sort((a, b) => b.weight - a.weight || (a.of < b.of ? -1 : 1))
    .slice(0, 6)
    .map(({ weight: _, ...one }) => one);
}
