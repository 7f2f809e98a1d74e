import { formatBytes } from '../units/bytes';
import { parsed, type ParseFailure, type Parsed } from '../units/parsed';
import { fairRates } from './fair-rates';
import { refuse } from './refusal';
import { byCodePoint } from '../units/order';

export interface PlannedMove {
  id: string;
  bytes: number;
  /** Arrays it goes between; the same where it stays within one. */
  from: string;
  to: string;
  link?: string | null;
  maxBytesPerS?: number | null;
  /** Moves that must be finished before it starts. */
  after?: string | readonly string[] | null;
  /** Moves that are cut over together. */
  group?: string | null;
  /** It is under way already: it goes before those that are not. */
  running?: boolean;
}

/** What an array or a link gives, and how many moves it takes at once; 0 or absent for no limit. */
export interface MoveResource {
  bytesPerS: number;
  concurrent?: number | null;
}

export interface Waves {
  /** By id. Seconds from now. */
  moves: { id: string; startS: number; finishS: number }[];
  makespanS: number;
  lowerBoundS: number;
  /** makespan / bound; null where the bound is 0. */
  ratio: number | null;
  /** When the last move of each group is finished: its earliest common cut. */
  groupReadyS: Record<string, number>;
  /** Where it was asked for: stretches in which every move goes at one rate, with the rates of those that run. */
  course?: Stretch[];
}

/** Seconds from now, and bytes a second by move. */
export interface Stretch {
  fromS: number;
  toS: number;
  rates: Record<string, number>;
}

/** What is left of a move below this share of it is rounding. */
const ROUNDING = 1e-9;
type Windows = readonly (readonly [number, number])[];

interface Task {
  id: string;
  bytes: number;
  left: number;
  way: number[];
  cap: number;
  running: boolean;
  estimate: number;
  tail: number;
  waitsFor: number;
  then: number[];
  startS: number;
  finishS: number;
}

/**
 * When each of many moves runs: list scheduling by the longest tail, over slots and rates of arrays and links that running moves share max-min,
 * within windows (move.md C). Bytes, bytes a second, seconds. Reasons: waves-unknown-predecessor, waves-cycle, waves-unknown-resource,
 * waves-no-link, waves-windows-too-short.
 */
export function planWaves({
  moves,
  arrays,
  links,
  windows,
  course = false,
}: {
  moves: readonly PlannedMove[];
  arrays: Readonly<Record<string, MoveResource>>;
  links: Readonly<Record<string, MoveResource>>;
  windows?: readonly (readonly [number, number])[] | null;
  course?: boolean;
}): Parsed<Waves> {
  const names = new Map<string, number>();
  const resources: MoveResource[] = [];
  for (const [kind, all] of [
    ['array', arrays],
    ['link', links],
  ] as const)
    for (const [id, resource] of Object.entries(all)) {
      names.set(`${kind} ${id}`, resources.length);
      resources.push(resource);
    }
  const made = tasksOf(moves, names, resources);
  if (!Array.isArray(made)) return made;
  const open: Windows = windows && windows.length > 0 ? [...windows].sort((a, b) => a[0] - b[0]) : [[0, Infinity]];
  const stretches: Stretch[] = [];
  carriedOut(made, resources, open, course ? stretches : undefined);
  const left = made.reduce((sum, task) => sum + task.left, 0);
  if (made.some(({ finishS }) => finishS < 0)) {
    // What it would take to go on where the last window ends.
    const end = open.at(-1)?.[1] ?? 0;
    carriedOut(made, resources, [[end, Infinity]]);
    const more = Math.max(...made.map(({ finishS }) => finishS)) - end;
    return refuse('waves-windows-too-short', formatBytes(Math.ceil(left), 'used'), String(Math.ceil(more / 360) / 10));
  }
  const makespanS = made.reduce((last, { finishS }) => Math.max(last, finishS), 0);
  const lowerBoundS = afterOpen(boundOf(made, resources), open);
  const groupReadyS: Record<string, number> = {};
  moves.forEach(({ group }, k) => {
    if (group) groupReadyS[group] = Math.max(groupReadyS[group] ?? 0, made[k]!.finishS);
  });
  return parsed({
    moves: made.map(({ id, startS, finishS }) => ({ id, startS, finishS })).sort((a, b) => byCodePoint(a.id, b.id)),
    makespanS,
    lowerBoundS,
    ratio: lowerBoundS > 0 ? makespanS / lowerBoundS : null,
    groupReadyS,
    ...(course ? { course: stretches } : {}),
  });
}

function predecessors({ after }: PlannedMove): readonly string[] {
  if (after === undefined || after === null) return [];
  return typeof after === 'string' ? [after] : after;
}

function tasksOf(
  moves: readonly PlannedMove[],
  names: ReadonlyMap<string, number>,
  resources: readonly MoveResource[],
): Task[] | ParseFailure {
  const places = new Map(moves.map(({ id }, k) => [id, k]));
  for (const move of moves)
    for (const before of predecessors(move))
      if (!places.has(before)) return refuse('waves-unknown-predecessor', move.id, before);
  const circle = circleOf(moves, places);
  if (circle) return refuse('waves-cycle', ...circle);
  for (const { id, from, to, link } of moves) {
    const unknown =
      [from, to].find((array) => !names.has(`array ${array}`)) ??
      (link && !names.has(`link ${link}`) ? link : undefined);
    if (unknown !== undefined) return refuse('waves-unknown-resource', id, unknown);
    if (from !== to && !link) return refuse('waves-no-link', from, to);
  }
  const tasks = moves.map((move): Task => {
    const { id, bytes, from, to, link, maxBytesPerS } = move;
    const way = [
      ...new Set([
        names.get(`array ${from}`)!,
        names.get(`array ${to}`)!,
        ...(link ? [names.get(`link ${link}`)!] : []),
      ]),
    ];
    const cap = maxBytesPerS ?? Infinity;
    const estimate = bytes === 0 ? 0 : bytes / Math.min(cap, ...way.map((r) => resources[r]!.bytesPerS));
    const waitsFor = new Set(predecessors(move)).size;
    const running = move.running ?? false;
    return {
      id,
      bytes,
      left: bytes,
      way,
      cap,
      running,
      estimate,
      tail: -1,
      waitsFor,
      then: [],
      startS: -1,
      finishS: -1,
    };
  });
  moves.forEach((move, k) => {
    for (const before of new Set(predecessors(move))) tasks[places.get(before)!]!.then.push(k);
  });
  // Tails from the ends backwards; a stack, for chains may be long.
  for (const start of tasks.keys()) {
    const stack = [start];
    while (stack.length > 0) {
      const k = stack.at(-1)!;
      const task = tasks[k]!;
      const open = task.tail >= 0 ? [] : task.then.filter((next) => tasks[next]!.tail < 0);
      if (open.length > 0) {
        stack.push(...open);
        continue;
      }
      stack.pop();
      task.tail = task.estimate + task.then.reduce((most, next) => Math.max(most, tasks[next]!.tail), 0);
    }
  }
  return tasks;
}

/** Two moves that wait for each other, or null. */
function circleOf(moves: readonly PlannedMove[], places: ReadonlyMap<string, number>): [string, string] | null {
  const waits = moves.map((move) => new Set(predecessors(move)).size);
  const then = moves.map((): number[] => []);
  moves.forEach((move, k) => {
    for (const before of new Set(predecessors(move))) then[places.get(before)!]!.push(k);
  });
  const free = [...moves.keys()].filter((k) => waits[k] === 0);
  let done = 0;
  for (let k = free.pop(); k !== undefined; k = free.pop()) {
    done += 1;
    for (const next of then[k]!) if (--waits[next]! === 0) free.push(next);
  }
  if (done === moves.length) return null;
  // Whoever still waits leads back into a circle: following it far enough ends within one.
  let at = waits.findIndex((left) => left > 0);
  const stillWaiting = (k: number) => places.get(predecessors(moves[k]!).find((one) => waits[places.get(one)!]! > 0)!)!;
  for (let step = 0; step < moves.length; step++) at = stillWaiting(at);
  return [moves[at]!.id, moves[stillWaiting(at)]!.id];
}

/** Lets moves run until all are finished, or the last window is over; those that run then go on where it is called again. */
function carriedOut(tasks: Task[], resources: readonly MoveResource[], windows: Windows, course?: Stretch[]): void {
  const capacities = resources.map(({ bytesPerS }) => bytesPerS);
  const slots = resources.map(({ concurrent }) => (concurrent ? concurrent : Infinity));
  const order = [...tasks.keys()].sort(
    (a, b) =>
      Number(tasks[b]!.running) - Number(tasks[a]!.running) ||
      tasks[b]!.tail - tasks[a]!.tail ||
      byCodePoint(tasks[a]!.id, tasks[b]!.id),
  );
  const startable = (k: number) => tasks[k]!.waitsFor === 0 && tasks[k]!.startS < 0;
  let ready = order.filter(startable);
  const rank = new Map(order.map((k, at) => [k, at]));
  let running = order.filter((k) => tasks[k]!.startS >= 0 && tasks[k]!.finishS < 0);
  for (const k of running) for (const r of tasks[k]!.way) slots[r]! -= 1;
  let [window, now] = [0, windows[0]?.[0] ?? 0];
  const begin = () => {
    const waiting: number[] = [];
    for (const k of ready) {
      const { way } = tasks[k]!;
      if (way.some((r) => slots[r]! <= 0)) {
        waiting.push(k);
        continue;
      }
      for (const r of way) slots[r]! -= 1;
      tasks[k]!.startS = now;
      running.push(k);
    }
    ready = waiting;
  };
  while (ready.length > 0 || running.length > 0) {
    while (window < windows.length && now >= windows[window]![1]) window += 1;
    if (window >= windows.length) return;
    now = Math.max(now, windows[window]![0]);
    begin();
    const rates = fairRates(
      capacities,
      running.map((k) => tasks[k]!.way),
      running.map((k) => tasks[k]!.cap),
    );
    let span = windows[window]![1] - now;
    running.forEach((k, at) => {
      const { left } = tasks[k]!;
      span = Math.min(span, left === 0 ? 0 : left / rates[at]!);
    });
    if (course && span > 0)
      course.push({
        fromS: now,
        toS: now + span,
        rates: Object.fromEntries(running.map((k, at) => [tasks[k]!.id, rates[at]!])),
      });
    const closes = now + span >= windows[window]![1] * (1 - ROUNDING) && span === windows[window]![1] - now;
    now = closes ? windows[window]![1] : now + span;
    const still: number[] = [];
    running.forEach((k, at) => {
      const task = tasks[k]!;
      task.left -= rates[at]! * span;
      if (task.left > ROUNDING * task.bytes) {
        still.push(k);
        return;
      }
      task.left = 0;
      task.finishS = now;
      for (const r of task.way) slots[r]! += 1;
      for (const next of task.then)
        if (--tasks[next]!.waitsFor === 0) {
          const place = rank.get(next)!;
          const at = ready.findIndex((one) => rank.get(one)! > place);
          ready.splice(at < 0 ? ready.length : at, 0, next);
        }
    });
    running = still;
  }
}

/** Open time that no plan can go below: the longest tail, what each resource has to carry, and what its slots have to hold. */
function boundOf(
  tasks: readonly Pick<Task, 'bytes' | 'way' | 'estimate' | 'tail'>[],
  resources: readonly MoveResource[],
): number {
  const bytes = resources.map(() => 0);
  const held = resources.map(() => 0);
  let bound = 0;
  for (const task of tasks) {
    bound = Math.max(bound, task.tail);
    for (const r of task.way) {
      bytes[r]! += task.bytes;
      held[r]! += task.estimate;
    }
  }
  resources.forEach(({ bytesPerS, concurrent }, r) => {
    bound = Math.max(bound, bytes[r]! / bytesPerS, concurrent ? held[r]! / concurrent : 0);
  });
  return bound;
}

/** The moment at which so much open time has passed, from the first window on; one that fills a window exactly ends at its end. */
function afterOpen(span: number, windows: Windows): number {
  let left = span;
  for (const [from, to] of windows) {
    if (left <= to - from) return span === 0 ? 0 : from + left;
    left -= to - from;
  }
  return Infinity;
}

/**
 * Jobs on alike machines, the longest first, each to the machine with the least to do (Graham): at most 4/3 − 1/(3m) of the optimum. Ties go to
 * the earlier job and the lower machine.
 */
export function lpt({ jobs, machines }: { jobs: readonly number[]; machines: number }): {
  makespan: number;
  lowerBound: number;
  worstRatio: number;
} {
  const falling = [...jobs].sort((a, b) => b - a);
  const busy = new Array<number>(machines).fill(0);
  for (const job of falling) {
    let least = 0;
    for (let m = 1; m < machines; m++) if (busy[m]! < busy[least]!) least = m;
    busy[least]! += job;
  }
  const pair = falling.length > machines ? falling[machines - 1]! + falling[machines]! : 0;
  return {
    makespan: Math.max(0, ...busy),
    lowerBound: Math.max(falling[0] ?? 0, jobs.reduce((sum, job) => sum + job, 0) / machines, pair),
    worstRatio: 4 / 3 - 1 / (3 * machines),
  };
}
