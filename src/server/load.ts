import { asQueue } from '@/core/performance/as-queue';
import { Book } from '@/core/performance/book';
import { SLOT, SLOT_S } from '@/core/performance/choices';
import { failureStates } from '@/core/performance/failure-states';
import { limitWords } from '@/core/performance/limit-fields';
import { limitedTo, limitedVolumes } from '@/core/performance/limits';
import {
  addRow,
  emptyRow,
  figuresOfRow,
  mergedRows,
  quantileOf,
  scaledRow,
  unpackRow,
  type LoadRow,
} from '@/core/performance/row';
import { hadBeen } from '@/core/performance/had-been';
import { roomOf } from '@/core/performance/room';
import { slotOf } from '@/core/performance/profile';
import { solveLimit } from '@/core/performance/solve-limit';
import { correlation, whyAt } from '@/core/performance/why';
import { measureOf, type LoadSummary } from '@/core/performance/top';
import type {
  Attention,
  Beside,
  EffectAnswer,
  EffectQuestion,
  FleetAnswer,
  LimitRow,
  LoadThings,
  LoadKind,
  LoadPoint,
  ProposalAnswer,
  QueueAnswer,
  QueueQuestion,
  RoomAnswer,
  SubjectLoad,
  WhyAnswer,
} from '@/core/performance/answers';
import { byName } from '@/core/operation/draft';
import { simulateInParts } from '@/core/qos/simulate';
import type { LoadModel } from '@/core/performance/shape';
import { whole } from '@/core/units/in-parts';
import { loadWhatIf, type LoadDifference, type LoadQuestion } from '@/core/performance/what-if';
import { poolUsage } from '@/core/pool/usage';
import { DAY, HOUR, MINUTE, type Milliseconds } from '@/core/units/duration';
import { formatCount } from '@/core/units/figures';
import { readAllHours, readHoursOf } from '@/store/load-rows';
import type { Plant } from './plant';
import { Problem } from './problem';

/** Spans up to this are worked out again five seconds by five seconds; longer ones are read from hours. */
const CLOSELY = 2 * DAY;
/** Points of a chart. */
const POINTS = 240;

const unknown = (id: string) =>
  new Problem(404, 'subject-unknown', `There is no volume, workload, array or host ${id}.`, 'Name it by its id.');

/** The span that ends now and is looked at in whole slots. */
function spanOf({ lab }: Plant, seconds: number, until: Milliseconds | null): { from: Milliseconds; to: Milliseconds } {
  const to = slotOf(Math.min(lab.now, until ?? lab.now)) * SLOT;
  return { from: to - seconds * 1000, to };
}

/** All rows of a span, by volume and resource. */
function rowsOf(plant: Plant, from: Milliseconds, to: Milliseconds): Map<string, LoadRow> {
  const found = new Map<string, LoadRow>();
  if (to - from <= CLOSELY / 8) {
    const book = new Book(slotOf(from), slotOf(to) - slotOf(from), 1);
    plant.telemetry.again(from, to, book);
    for (const { subject, parts } of book.all()) found.set(subject, parts[0]!);
    return found;
  }
  const into = (subject: string): LoadRow => {
    let row = found.get(subject);
    if (!row) found.set(subject, (row = emptyRow()));
    return row;
  };
  for (const { subject, data } of readAllHours(plant.store.db, from - HOUR + 1, to))
    addRow(into(subject), unpackRow(data));
  // The hour under way belongs to spans that reach into it.
  const { underWay } = plant.telemetry;
  if (to > underWay.start * SLOT)
    for (const { subject, parts } of underWay.all()) addRow(into(subject), mergedRows(parts));
  return found;
}

const summaryOf = (id: string, name: string, of: string, fullness: number | null, row: LoadRow): LoadSummary => {
  const f = figuresOfRow(row);
  return {
    id,
    name,
    of,
    fullness,
    iops: f.iops,
    mostIops: row.mostIops,
    mostIopsAt: row.mostIopsAt * SLOT,
    latencyS: f.latencyS,
    p95S: f.p95S,
    mostLatencyS: row.mostLatency,
    mostLatencyAt: row.mostLatencyAt * SLOT,
    bytesPerS: f.bytesPerS,
    mostBytesPerS: row.mostBytesPerS,
    unserved: f.unservedIops,
    mostUnserved: row.mostRefused,
    mostQueue: row.mostQueue,
    held: row.served > 0 ? row.held / row.served : 0,
  };
};

/** Volumes of a workload, an array or a host; of a volume itself. */
function volumesOf(
  { estate }: Plant,
  id: string,
): { kind: LoadKind; name: string; array: string | null; volumes: string[] } | null {
  const volume = estate.table('volume').get(id);
  if (volume) return { kind: 'volume', name: volume.name, array: volume.array, volumes: [id] };
  const workload = estate.table('workload').get(id);
  if (workload)
    return {
      kind: 'workload',
      name: workload.name,
      array: null,
      volumes: estate
        .table('volume')
        .by('workload', id)
        .map((one) => one.id),
    };
  const array = estate.table('array').get(id);
  if (array)
    return {
      kind: 'array',
      name: array.name,
      array: id,
      volumes: estate
        .table('volume')
        .by('array', id)
        .map((one) => one.id),
    };
  const host = estate.table('host').get(id);
  if (host)
    return {
      kind: 'host',
      name: host.name,
      array: null,
      volumes: estate
        .table('hostDevice')
        .by('host', id)
        .map((one) => one.volume),
    };
  return null;
}

/** The first page: what needs somebody, sums, and every volume, workload, array and host with its figures. */
export function fleet(plant: Plant, seconds: number, until: Milliseconds | null): FleetAnswer {
  const { from, to } = spanOf(plant, seconds, until);
  const rows = rowsOf(plant, from, to);
  const { estate } = plant;
  const subjects: FleetAnswer['subjects'] = { volume: [], workload: [], array: [], host: [] };
  const sums = { volumes: 0, iops: 0, bytesPerS: 0, unserved: 0, usedBytes: 0, sizeBytes: 0 };
  for (const pool of estate.table('pool').values()) {
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

const ms = (seconds: number): string =>
  seconds >= 1 ? `${seconds.toPrecision(2)} s` : `${(seconds * 1000).toPrecision(2)} ms`;

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
      says: `${one.name} waited ${ms(one.mostLatencyS)} at its worst; its mean of ${ms(one.latencyS!)} hides it`,
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

const pointOf = (at: Milliseconds, row: LoadRow): LoadPoint => {
  const f = figuresOfRow(row);
  return {
    at,
    seconds: f.seconds,
    asked: f.askedIops,
    iops: f.iops,
    mostIops: row.mostIops,
    held: f.seconds > 0 ? row.held / f.seconds : 0,
    unserved: f.unservedIops,
    bytesPerS: f.bytesPerS,
    latencyS: f.latencyS,
    mostLatencyS: row.mostLatency,
    mostLatencyAt: row.mostLatencyAt * SLOT,
    p50S: f.p50S,
    p95S: f.p95S,
    p99S: f.p99S,
  };
};

/** Rows of several volumes side by side as one. */
function together(rows: readonly LoadRow[]): LoadRow {
  const sum = mergedRows(rows);
  sum.slots = Math.max(0, ...rows.map(({ slots }) => slots));
  return sum;
}

/** Some volumes together over a span, as points of a chart. */
export function pointsOf(
  plant: Plant,
  volumes: ReadonlySet<string>,
  from: Milliseconds,
  to: Milliseconds,
): LoadPoint[] {
  if (to - from <= CLOSELY) {
    const slots = Math.max(1, Math.ceil((slotOf(to) - slotOf(from)) / POINTS));
    const count = Math.ceil((slotOf(to) - slotOf(from)) / slots);
    const book = new Book(slotOf(from), slots, count, (id) => volumes.has(id));
    plant.telemetry.again(from, to, book);
    const all = [...book.all()];
    return Array.from({ length: count }, (_, k) =>
      pointOf(from + k * slots * SLOT, together(all.map(({ parts }) => parts[k]!))),
    );
  }
  const hours = new Map<Milliseconds, LoadRow[]>();
  for (const id of volumes)
    for (const { at, row } of readHoursOf(plant.store.db, id, from, to)) hours.set(at, [...(hours.get(at) ?? []), row]);
  return [...hours].sort(([a], [b]) => a - b).map(([at, rows]) => pointOf(at, together(rows)));
}

/** What the log tells of the minute around a moment. */
function besideOf(plant: Plant, at: Milliseconds): Beside[] {
  return (
    plant.store.db
      .prepare('SELECT at_lab AS at, level, message FROM log WHERE at_lab BETWEEN ? AND ? ORDER BY at_lab LIMIT 6')
      .all(at - MINUTE, at + MINUTE) as { at: number; level: string; message: string }[]
  ).map(({ at: when, level, message }) => ({ at: when, says: message, problem: level === 'problem' }));
}

/** A volume, a workload, an array or a host over a span. */
export function subjectLoad(plant: Plant, id: string, seconds: number, until: Milliseconds | null): SubjectLoad {
  const of = volumesOf(plant, id);
  if (!of) throw unknown(id);
  const { from, to } = spanOf(plant, seconds, until);
  const { estate } = plant;
  const ids = new Set(of.volumes);
  const points = pointsOf(plant, ids, from, to);
  const rows = rowsOf(plant, from, to);
  const hours = new Map<Milliseconds, LoadRow[]>();
  for (const volume of ids)
    for (const { at, row } of readHoursOf(plant.store.db, volume, from, to))
      hours.set(at, [...(hours.get(at) ?? []), row]);
  const spikes = worstOf(points).map(({ mostLatencyAt: at, mostLatencyS, mostIops }) => ({
    at,
    latencyS: mostLatencyS,
    iops: mostIops,
    beside: besideOf(plant, at),
  }));
  return {
    id,
    kind: of.kind,
    name: of.name,
    array: of.array,
    arrayName: of.array === null ? null : (estate.table('array').get(of.array)?.name ?? null),
    from,
    to,
    points,
    hours: [...hours]
      .sort(([a], [b]) => a - b)
      .map(([at, some]) => {
        const { iops, latencyS } = figuresOfRow(together(some));
        return { at, iops, latencyS };
      }),
    limits: of.kind === 'volume' ? limitsOn(plant, id) : [],
    volumes: of.volumes.flatMap((one) => {
      const row = rows.get(one);
      const volume = estate.table('volume').get(one);
      if (!row || !volume) return [];
      return [
        summaryOf(
          one,
          volume.name,
          estate.table('pool').get(volume.pool)!.name,
          volume.size > 0 ? volume.written / volume.size : null,
          row,
        ),
      ];
    }),
    spikes,
    unusual: unusualHours(plant, ids),
  };
}

/** The points at which the wait was far from usual, the worst first. */
function worstOf(points: readonly LoadPoint[]): LoadPoint[] {
  const busy = points.filter(({ latencyS }) => latencyS !== null);
  const sorted = [...busy].sort((a, b) => a.mostLatencyS - b.mostLatencyS);
  const usual = sorted[Math.floor(sorted.length / 2)]?.mostLatencyS ?? 0;
  return sorted
    .filter(({ mostLatencyS }) => mostLatencyS > 3 * usual)
    .reverse()
    .slice(0, 3);
}

/** Hours of the last day that are unlike the same hours of the week before. */
function unusualHours(plant: Plant, ids: ReadonlySet<string>): { at: Milliseconds; says: string }[] {
  const { now } = plant.lab;
  const hours = new Map<Milliseconds, LoadRow[]>();
  for (const id of ids)
    for (const { at, row } of readHoursOf(plant.store.db, id, now - 8 * DAY, now))
      hours.set(at, [...(hours.get(at) ?? []), row]);
  const found: { at: Milliseconds; says: string }[] = [];
  for (const [at, rows] of hours) {
    const before = hours.get(at - 7 * DAY);
    if (at < now - DAY || !before) continue;
    const [is, was] = [together(rows), together(before)];
    const [p, q] = [quantileOf(is, 0.95), quantileOf(was, 0.95)];
    if (p !== null && q !== null && (p > 2 * q || p < q / 2))
      found.push({ at, says: `p95 ${ms(p)}, a week before ${ms(q)}` });
    else if (was.served > 0 && (is.served > 2 * was.served || is.served < was.served / 2))
      found.push({
        at,
        says: `${formatCount(is.served / 3600)} I/O/s, a week before ${formatCount(was.served / 3600)}`,
      });
  }
  return found.sort((a, b) => b.at - a.at).slice(0, 4);
}

function limitsOn({ estate }: Plant, id: string): SubjectLoad['limits'] {
  const volume = estate.table('volume').get(id)!;
  return estate
    .table('loadLimit')
    .by('array', volume.array)
    .flatMap((limit) => {
      if (!limitedVolumes(estate, limit).has(id)) return [];
      const { id: limitId, name, array, ...figures } = limit;
      return [
        {
          id: limitId,
          name,
          array: estate.table('array').get(array)!.name,
          figures,
          iops: limitedTo(limit, { size: volume.size, ioBytes: volume.activity?.ioBytes ?? 8192 }),
          shared: limit.shared,
        },
      ];
    });
}

/** The slot of a span at which a volume waited longest, and the model and state it was in. */
function worstMoment(plant: Plant, id: string, from: Milliseconds, to: Milliseconds): Milliseconds {
  const book = new Book(slotOf(from), slotOf(to) - slotOf(from), 1, (one) => one === id);
  plant.telemetry.again(from, to, book);
  for (const { parts } of book.all()) if (parts[0]!.mostLatencyAt > 0) return parts[0]!.mostLatencyAt * SLOT;
  return to - SLOT;
}

/** Why a volume waited: at a moment, or at the worst of a span. */
export function why(plant: Plant, id: string, seconds: number, at: Milliseconds | null): WhyAnswer {
  const { from, to } = spanOf(plant, Math.min(seconds, CLOSELY / 1000), at === null ? null : at + SLOT);
  const moment = at ?? worstMoment(plant, id, from, to);
  const [basis] = plant.telemetry.basis(moment, moment + SLOT);
  const found = basis && whyAt(basis.model, slotOf(moment), id);
  if (!found)
    throw new Problem(
      404,
      'load-unknown',
      'Nothing is known of its load then.',
      'Look at a later time, or say what hosts do to it.',
    );
  const around = { from: moment - 15 * MINUTE, to: moment + 15 * MINUTE };
  const book = new Book(slotOf(around.from), 1, slotOf(around.to) - slotOf(around.from));
  plant.telemetry.again(around.from, around.to, book);
  const series = new Map([...book.all()].map(({ subject, parts }) => [subject, parts]));
  const mine = (series.get(id) ?? []).map((row) => (row.served > 0 ? row.latency / row.served : 0));
  return {
    ...found,
    overlap: Object.fromEntries(
      found.neighbours.map((one) => [
        one.id,
        correlation(
          mine,
          (series.get(one.id) ?? []).map((row) => row.asked),
        ),
      ]),
    ),
  };
}

/** The limit on X that keeps Y in time, at the moment at which Y waited longest. */
export function propose(plant: Plant, x: string, y: string, targetS: number, seconds: number): ProposalAnswer {
  const { from, to } = spanOf(plant, Math.min(seconds, CLOSELY / 1000), null);
  const at = worstMoment(plant, y, from, to);
  const [basis] = plant.telemetry.basis(at, at + SLOT);
  const proposal = basis && solveLimit(basis.model, slotOf(at), { x, y, targetS });
  if (!proposal)
    throw new Problem(
      404,
      'load-unknown',
      'One of the two asks for nothing.',
      'Choose two volumes that hosts work with.',
    );
  return { at, x, y, proposal, simulated: proposal.ok ? simulated(basis.model, at, x, y, proposal.iops) : null };
}

/** I/Os that a proposal is tried with. */
const TRIED_IOS = 60_000;
const SEED = 1;

/** The proposal tried I/O by I/O, beside things as they were. */
function simulated(
  model: LoadModel,
  at: Milliseconds,
  x: string,
  y: string,
  iops: number,
): ProposalAnswer['simulated'] {
  const p95 = (limit: { volume: string; iops: number } | null) => {
    const queue = asQueue(model, slotOf(at), y, limit);
    const end = queue && whole(simulateInParts({ ...queue.simulation, ios: TRIED_IOS, seed: SEED }));
    return { resource: queue?.resource ?? '', p95S: end?.volumes.find(({ id }) => id === y)?.p95S ?? 0 };
  };
  const [was, then] = [p95(null), p95({ volume: x, iops })];
  return { resource: then.resource, ios: TRIED_IOS, seed: SEED, wasS: was.p95S, p95S: then.p95S };
}

/** What every resource of an array has left, now and with one thing lost. */
export function room({ estate }: Plant, id: string): RoomAnswer {
  const array = estate.table('array').get(id);
  if (!array) throw unknown(id);
  return {
    array: array.name,
    rooms: roomOf(failureStates(estate, id)).filter((one) => one.array === id),
  };
}

/** What a span would have been, had a volume been limited so. */
export function effect(plant: Plant, question: EffectQuestion): EffectAnswer {
  const { volume, replaces, variants } = question;
  const { from, to } = spanOf(plant, question.seconds, question.until);
  const row = plant.estate.table('volume').get(volume);
  if (!row) throw unknown(volume);
  const basis = plant.telemetry.basis(from, to);
  const model = basis.at(-1)?.model;
  const index = model?.volumes.findIndex(({ id }) => id === volume) ?? -1;
  if (!model || index < 0)
    throw new Problem(
      404,
      'load-unknown',
      `Nothing is known of what hosts ask of ${row.name}.`,
      'Say what hosts do to it.',
    );
  const mine = new Set(model.volumes[index]!.uses.map(({ resource }) => resource));
  const around = model.volumes.filter((one, k) => k !== index && one.uses.some(({ resource }) => mine.has(resource)));
  const ids = new Set([volume, ...around.map(({ id }) => id)]);
  const resources = new Map(model.resources.filter((_, r) => mine.has(r)).map((one) => [one.id, one]));
  const keep = (id: string) => ids.has(id) || resources.has(id);
  const runs = [null, ...variants].map((variant) => ({
    label: variant?.label ?? 'now',
    ...hadBeen(basis, { from, to, volume, replaces, keep, points: POINTS }, variant),
  }));
  const worst = (id: string) => runs[0]!.whole.get(id)?.mostLatency ?? 0;
  const listed = [...around].sort((a, b) => worst(b.id) - worst(a.id)).slice(0, 3);
  const neighbour = around.find(({ id }) => id === question.neighbour) ?? listed[0] ?? null;
  const shown = [{ id: volume, name: row.name }, ...listed.map(({ id, name }) => ({ id, name }))];
  return {
    from,
    to,
    slots: slotOf(to) - slotOf(from),
    volumes: shown,
    neighbour: neighbour && { id: neighbour.id, name: neighbour.name },
    variants: runs.map(({ label, rows, whole, heldSlots, lateS }) => {
      const busiest = [...resources.values()]
        .map(({ id, name }) => ({ name, rho: whole.get(id)?.mostRho ?? 0 }))
        .sort((a, b) => b.rho - a.rho)[0];
      const points = (id: string) => chartOf(from, rows.get(id) ?? []);
      return {
        label,
        heldSlots,
        lateS,
        worst: Object.fromEntries(shown.map(({ id }) => [id, whole.get(id)?.mostLatency ?? 0])),
        p95: Object.fromEntries(shown.map(({ id }) => [id, (whole.get(id) && quantileOf(whole.get(id)!, 0.95)) ?? 0])),
        busiest: busiest ?? null,
        points: points(volume),
        neighbourPoints: neighbour ? points(neighbour.id) : [],
      };
    }),
  };
}

/** Rows one after the other as points of a chart. */
function chartOf(from: Milliseconds, rows: readonly LoadRow[]): LoadPoint[] {
  let at = from;
  return rows.map((row) => {
    const point = pointOf(at, row);
    at += row.slots * SLOT;
    return point;
  });
}

/** Every limit with what it is put on, and how much of what its volumes did in the last day waited for it. */
export function limitRows(plant: Plant): LimitRow[] {
  const { estate } = plant;
  const { from, to } = spanOf(plant, DAY / 1000, null);
  const rows = rowsOf(plant, from, to);
  return [...estate.table('loadLimit').values()].sort(byName).map((limit) => {
    const volumes = [...limitedVolumes(estate, limit)].map((id) => estate.table('volume').get(id)!);
    const all = volumes.flatMap(({ id }) => rows.get(id) ?? []);
    const done = all.reduce((sum, row) => sum + row.served, 0);
    return {
      id: limit.id,
      name: limit.name,
      array: estate.table('array').get(limit.array)!.name,
      says: limitWords(limit),
      volumes: volumes.map(({ name }) => name).sort(),
      held: done > 0 ? all.reduce((sum, row) => sum + row.held, 0) / done : 0,
      notes: limit.notes,
    };
  });
}

/** The queue at which Y waits beside X under a limit, to be simulated I/O by I/O. */
export function queueOf(plant: Plant, { x, y, iops, at }: QueueQuestion): QueueAnswer {
  const [basis] = plant.telemetry.basis(at, at + SLOT);
  const queue = basis && asQueue(basis.model, slotOf(at), y, { volume: x, iops });
  if (!queue) throw new Problem(404, 'load-unknown', 'Nothing is known of its load then.', 'Look at a later time.');
  const names = Object.fromEntries(basis.model.volumes.map(({ id, name }) => [id, name]));
  return { ...queue, names };
}

/** What the load would be, were something lost, a workload larger, a volume in another pool. */
export function whatIfLoad({ estate }: Plant, question: LoadQuestion): LoadDifference {
  const known: [string | undefined, 'controller' | 'workload' | 'volume' | 'pool'][] = [
    [question.lost, 'controller'],
    [question.grows?.workload, 'workload'],
    [question.moves?.volume, 'volume'],
    [question.moves?.pool, 'pool'],
  ];
  for (const [id, kind] of known)
    if (id !== undefined && !estate.table(kind).get(id))
      throw new Problem(404, `${kind}-unknown`, `There is no ${kind} ${id}.`, 'Name it by its id.');
  const { moves } = question;
  if (moves && estate.table('volume').get(moves.volume)!.array !== estate.table('pool').get(moves.pool)!.array)
    throw new Problem(
      422,
      'pool-of-another-array',
      'The pool is of another array.',
      'Choose a pool of the array of the volume.',
    );
  return loadWhatIf(estate, question);
}

/** What can be tried: controllers, workloads, volumes that are asked for something, and pools. */
export function loadThings({ estate, telemetry }: Plant): LoadThings {
  const arrayName = (id: string) => estate.table('array').get(id)!.name;
  const model = telemetry.present();
  return {
    controllers: model.resources.flatMap(({ id, kind, name }) => (kind === 'controller' ? [{ id, name }] : [])),
    workloads: [...estate.table('workload').values()].sort(byName).map(({ id, name }) => ({ id, name })),
    volumes: model.volumes
      .map(({ id, name, array }) => ({ id, name: `${arrayName(array)} ${name}`, array }))
      .sort(byName),
    pools: [...estate.table('pool').values()]
      .filter(({ direct }) => !direct)
      .map(({ id, name, array }) => ({ id, name: `${arrayName(array)} ${name}`, array }))
      .sort(byName),
  };
}
