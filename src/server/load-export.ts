import { writeOpenMetrics, type MetricFamily } from '@/formats/openmetrics';
import { Book } from '@/core/performance/book';
import { SLOT, SLOT_S } from '@/core/performance/choices';
import { slotOf } from '@/core/performance/profile';
import { figuresOfRow } from '@/core/performance/row';
import { MINUTE } from '@/core/units/duration';
import Papa from 'papaparse';
import { subjectLoad } from './load-subject';
import type { Plant } from './plant';

/** The last whole minute of every volume and resource, for scrapers. */
export function metrics(plant: Plant): string {
  const to = slotOf(plant.lab.now) * SLOT;
  const from = to - MINUTE;
  const book = new Book(slotOf(from), Math.round(MINUTE / SLOT), 1);
  plant.telemetry.again(from, to, book);
  const { estate } = plant;
  const family = (name: string, help: string, unit?: string): MetricFamily => ({
    name,
    help,
    ...(unit ? { unit } : {}),
    samples: [],
  });
  const iops = family('trabes_volume_served_operations_per_second', 'Operations a second that were done');
  const asked = family('trabes_volume_asked_operations_per_second', 'Operations a second that applications asked');
  const refused = family('trabes_volume_unserved_operations_per_second', 'Operations a second that were not served');
  const rate = family('trabes_volume_throughput_bytes_per_second', 'Bytes a second that were moved');
  const latency = family(
    'trabes_volume_latency_seconds',
    'Latency over the last minute; quantile mean is the mean',
    'seconds',
  );
  const queue = family('trabes_volume_queue_operations', 'Most operations that waited at a time');
  const busy = family(
    'trabes_resource_utilisation_ratio',
    'Share of what a port, controller, group or link gives',
    'ratio',
  );
  const resources = new Map(plant.telemetry.present().resources.map((one) => [one.id, one]));
  for (const { subject, parts } of book.all()) {
    const row = parts[0]!;
    const volume = estate.table('volume').get(subject);
    if (volume) {
      const labels = {
        array: estate.table('array').get(volume.array)!.name,
        pool: estate.table('pool').get(volume.pool)!.name,
        volume: volume.name,
        workload: volume.workload === null ? '' : (estate.table('workload').get(volume.workload)?.name ?? ''),
      };
      const f = figuresOfRow(row);
      iops.samples.push({ labels, value: f.iops });
      asked.samples.push({ labels, value: f.askedIops });
      refused.samples.push({ labels, value: f.unservedIops });
      rate.samples.push({ labels, value: f.bytesPerS });
      queue.samples.push({ labels, value: row.mostQueue });
      for (const [quantile, value] of [
        ['mean', f.latencyS],
        ['0.5', f.p50S],
        ['0.95', f.p95S],
        ['0.99', f.p99S],
      ] as const)
        if (value !== null) latency.samples.push({ labels: { ...labels, quantile }, value });
      continue;
    }
    const resource = resources.get(subject);
    if (resource && row.slots > 0)
      busy.samples.push({
        labels: { kind: resource.kind, resource: resource.name },
        value: row.used / (row.slots * SLOT_S) / resource.capacity,
      });
  }
  return writeOpenMetrics([iops, asked, refused, rate, latency, queue, busy]);
}

/** The points of a chart as CSV; times in seconds, `at` as ISO 8601 of the lab's time. */
export const loadCsv = (plant: Plant, of: string, seconds: number, until: number | null): string =>
  Papa.unparse(
    subjectLoad(plant, of, seconds, until).points.map(({ at, mostLatencyAt, ...point }) => ({
      at: new Date(at).toISOString(),
      ...point,
      mostLatencyAt: mostLatencyAt > 0 ? new Date(mostLatencyAt).toISOString() : '',
    })),
  );
