import { ownPools } from '@/core/estate/own';
import { Book } from '@/core/performance/book';
import { SLOT } from '@/core/performance/choices';
import { quantileOf } from '@/core/performance/row';
import { hadBeen } from '@/core/performance/had-been';
import { slotOf } from '@/core/performance/profile';
import { correlation, whyAt } from '@/core/performance/why';
import type { EffectAnswer, EffectQuestion, LoadThings, WhatIfAnswer, WhyAnswer } from '@/core/performance/answers';
import { byName } from '@/core/operation/draft';
import { limitWeek } from '@/core/performance/limit-week';
import { withinMeasured } from '@/core/load/measured';
import { loadWhatIf, type LoadQuestion } from '@/core/performance/what-if';
import { DAY, MINUTE, type Milliseconds } from '@/core/units/duration';
import { readDaysOf, readHoursOf } from '@/store/load-rows';
import type { Plant } from './plant';
import { Problem } from './problem';

import { CLOSELY, POINTS, chartOf, spanOf, unknown } from './load-spans';

/** The slot of a span at which a volume waited longest, and the model and state it was in. */
export function worstMoment(plant: Plant, id: string, from: Milliseconds, to: Milliseconds): Milliseconds {
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
    week: variants[0]?.iops ? limitWeek(model, index, variants[0].iops) : null,
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

/** Days within which it counts how busy a resource was. */
const MEASURED_DAYS = 30;

/** What the load would be, were something lost, a workload larger, a volume in another pool. */
export function whatIfLoad({ estate, store, lab }: Plant, question: LoadQuestion): WhatIfAnswer {
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
  const found = loadWhatIf(estate, question);
  // Of what was never measured nearly as busy the model says what it can, and that it is a guess.
  const guesses = found.resources.flatMap(({ id, name, was, is }) => {
    if (is <= was) return [];
    const rows = [
      ...readDaysOf(store.db, id, lab.now - MEASURED_DAYS * DAY).map(({ row }) => row),
      ...readHoursOf(store.db, id, lab.now - DAY, lab.now).map(({ row }) => row),
    ];
    const measuredRho = rows.reduce((most, { mostRho }) => Math.max(most, mostRho), 0);
    const within = withinMeasured({ resource: name, measuredRho, wantRho: is });
    return within.ok ? [] : [{ id, message: within.message }];
  });
  return { ...found, guesses };
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
    pools: ownPools(estate)
      .map(({ id, name, array }) => ({ id, name: `${arrayName(array)} ${name}`, array }))
      .sort(byName),
  };
}
