import { SLOT } from '@/core/performance/choices';
import type { Disturbed, LoadFacts } from '@/core/performance/facts';
import { LOOK, LOOKED_BACK, looksAt, looksOf, type Look } from '@/core/performance/looks';
import { figuresOfRow, mergedRows, unpackRow, type LoadRow } from '@/core/performance/row';
import { solveLimit } from '@/core/performance/solve-limit';
import { whyAt } from '@/core/performance/why';
import { DAY, HOUR } from '@/core/units/duration';
import { readAllHours, readAllParts, readAllRows } from '@/store/load-rows';
import type { Plant } from './plant';

/** Of volumes that waited far longer than usual, so many are taken apart. */
const LOOKED_AT = 3;
/** How much longer than on the mean of the day. */
const FAR = 10;

let shown: { plant: Plant; hour: number; facts: Measured } | null = null;
let looked: { plant: Plant; look: number; looks: LoadFacts['looks'] } | null = null;

type Measured = Omit<LoadFacts, 'looks' | 'model'>;

/** What was measured, as checks read it; days are read once an hour, and looks every five minutes. */
export function loadFacts(plant: Plant): LoadFacts {
  const { now } = plant.lab;
  const [hour, look] = [Math.floor(now / HOUR), Math.floor(now / LOOK)];
  if (shown?.plant !== plant || shown.hour !== hour) shown = { plant, hour, facts: measure(plant) };
  if (looked?.plant !== plant || looked.look !== look) looked = { plant, look, looks: looksOfNow(plant) };
  // Limits and paths are those of now, whatever the hour.
  return { ...shown.facts, looks: looked.looks, model: plant.telemetry.present() };
}

/** The last whole hours, and what of the present one is over. */
function looksOfNow({ lab: { now }, store, telemetry }: Plant): LoadFacts['looks'] {
  const looks = new Map<string, Look[]>();
  const hour = Math.floor(now / HOUR) * HOUR;
  const put = (subject: string, more: readonly Look[]) => looks.set(subject, [...(looks.get(subject) ?? []), ...more]);
  for (const { subject, row, parts } of readAllParts(store.db, hour - LOOKED_BACK * HOUR, hour))
    if (row.served > 0 || row.asked > 0) put(subject, looksOf(parts, row));
  const over = Math.floor((now - hour) / LOOK);
  if (telemetry.underWay.start * SLOT === hour)
    for (const { subject, parts } of telemetry.underWay.all())
      if (parts.some(({ asked }) => asked > 0)) put(subject, looksAt(parts.slice(0, over)));
  return looks;
}

function measure(plant: Plant): Measured {
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
  return { hours, peaks, asked, disturbed: disturbedOf(plant, hours) };
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
