import { SLOT } from '@/core/performance/choices';
import type { Disturbed, LoadFacts } from '@/core/performance/facts';
import { figuresOfRow, mergedRows, unpackRow, type LoadRow } from '@/core/performance/row';
import { solveLimit } from '@/core/performance/solve-limit';
import { whyAt } from '@/core/performance/why';
import { DAY, HOUR } from '@/core/units/duration';
import { readAllHours, readAllRows } from '@/store/load-rows';
import type { Plant } from './plant';

/** Of volumes that waited far longer than usual, so many are taken apart. */
const LOOKED_AT = 3;
/** How much longer than on the mean of the day. */
const FAR = 10;

let shown: { plant: Plant; hour: number; facts: LoadFacts } | null = null;

/** What was measured, as checks read it; worked out once an hour. */
export function loadFacts(plant: Plant): LoadFacts {
  const hour = Math.floor(plant.lab.now / HOUR);
  if (shown?.plant !== plant || shown.hour !== hour) shown = { plant, hour, facts: measure(plant) };
  // Limits and paths are those of now, whatever the hour.
  return { ...shown.facts, model: plant.telemetry.present() };
}

function measure(plant: Plant): LoadFacts {
  const { now } = plant.lab;
  const { db } = plant.store;
  const day = Math.floor(now / HOUR) * HOUR - DAY;
  const hours = new Map<string, LoadRow[]>();
  const peaks = new Map<string, number>();
  const asked = new Set<string>();
  const noted = ({ subject, data }: { subject: string; data: Buffer }): LoadRow => {
    const row = unpackRow(data);
    if (row.asked > 0) asked.add(subject);
    peaks.set(subject, Math.max(peaks.get(subject) ?? 0, row.mostIops));
    return row;
  };
  for (const one of readAllRows(db, now - 30 * DAY, day)) noted(one);
  for (const one of readAllHours(db, day, now)) {
    const known = hours.get(one.subject);
    const row = noted(one);
    if (known) known.push(row);
    else hours.set(one.subject, [row]);
  }
  for (const { subject } of db
    .prepare('SELECT DISTINCT subject FROM load_day WHERE at >= ?')
    .iterate(now - 60 * DAY) as Iterable<{ subject: string }>)
    asked.add(subject);
  return { hours, peaks, asked, disturbed: disturbedOf(plant, hours), model: plant.telemetry.present() };
}

/** Takes the worst waits of the day apart, as paths and limits stand now. */
function disturbedOf(plant: Plant, hours: ReadonlyMap<string, LoadRow[]>): Disturbed[] {
  const present = plant.telemetry.present();
  const worst = [...hours]
    .map(([id, rows]) => ({ id, row: mergedRows(rows) }))
    .filter(({ row }) => row.served > 0 && row.held === 0 && row.mostLatency > (FAR * row.latency) / row.served)
    .sort((a, b) => b.row.mostLatency - a.row.mostLatency || (a.id < b.id ? -1 : 1))
    .slice(0, LOOKED_AT);
  return worst.flatMap(({ id, row }): Disturbed[] => {
    const at = row.mostLatencyAt * SLOT;
    const why = whyAt(present, row.mostLatencyAt, id);
    const [x] = why?.neighbours ?? [];
    if (!why || !x) return [];
    const usual = figuresOfRow(row).p95S ?? 0;
    const proposal = solveLimit(present, row.mostLatencyAt, { x: x.id, y: id, targetS: 2 * usual });
    // With the limits of now that moment would pass unnoticed: it is mended.
    if (proposal?.ok === false && proposal.code === 'qos-target-met') return [];
    return [
      {
        x: x.id,
        y: id,
        at,
        addedS: x.addedS,
        share: x.share,
        usualS: usual,
        proposed: proposal?.ok ? proposal.iops : null,
      },
    ];
  });
}
