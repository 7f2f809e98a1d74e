import { rmSync } from 'node:fs';
import { named } from '../../demo/workbench';
import { Overlay } from '@/core/estate/estate';
import { brokenRules } from '@/core/rules/book';
import { DAY, HOUR, MINUTE, SECOND } from '@/core/units/duration';
import { importCalendar } from './import-lists';
import { openTrabes, type Trabes } from './instance';
import { plans } from './due';
import { changeFault } from './lab';
import { copyPristine } from './pristine.fixture';
import { planAnswer, planCalendar, planDayAnswer, pointAnswer, protectionView, subjectAnswer } from './protection';

let folder: string;
let file: string;
let trabes: Trabes;
const reopen = () => {
  trabes.plant.close();
  trabes = openTrabes(file, 'demo');
};
beforeAll(() => {
  ({ folder, file } = copyPristine());
  trabes = openTrabes(file, 'demo');
}, 180_000);
afterAll(() => {
  trabes.plant.close();
  rmSync(folder, { recursive: true, force: true });
});
const ticketing = () => named(trabes.plant.estate, 'workload', 'Ticketing').id;

test('the demo shows what is protected, the worst first, and no rule is broken by a month of copies', async () => {
  const { lanes, plans } = await protectionView(trabes.plant);
  expect(lanes[0]).toMatchObject({ name: 'Crew rota', state: 'none', plan: null });
  expect(lanes.map((lane) => lane.state)).toEqual(
    [...lanes.map((lane) => lane.state)].sort(
      (a, b) => ['broken', 'none', 'short', 'good'].indexOf(a) - ['broken', 'none', 'short', 'good'].indexOf(b),
    ),
  );
  expect(plans.map((plan) => plan.name)).toEqual(['Archive', 'Deck', 'Harbour day']);
  expect(brokenRules(trabes.plant.estate)).toEqual([]);
});

test('a workload tells its points, and what going back to one would drop and bring', () => {
  const subject = subjectAnswer(trabes.plant, ticketing());
  const night = subject.points.find((point) => point.name === '2031-04-14-0100')!;
  expect(subject.points[0]!.at).toBeGreaterThan(night.at);
  const point = pointAnswer(trabes.plant, ticketing(), night.cut);
  expect(point.files.find((file) => file.path === 'passengers/2031-04-13.csv')).toMatchObject({ now: 'gone' });
  expect(point.dropped).toBeGreaterThan(point.restored);
  expect(() => pointAnswer(trabes.plant, ticketing(), 'gone')).toThrow(/gone/);
  expect(() => subjectAnswer(trabes.plant, 'nobody')).toThrow(/no workload or volume/);
});

test('the scarcest day of a line is told for what is asked; a recovery point out of range is refused in words', async () => {
  const { plant } = trabes;
  const { of, link } = planAnswer(plant, ticketing(), '');
  const { day, rows } = await planDayAnswer(plant, { of, link, rpo: 10 * MINUTE }, {});
  expect(day).toMatch(/day$/);
  expect(rows[0]).toMatchObject({ id: null, name: 'Ticketing', interval: 5 * MINUTE, rpo: 10 * MINUTE });
  expect(rows.filter(({ name }) => name === 'Ticketing')).toHaveLength(1);
  for (const rpo of [NaN, 0, -1, 2 * DAY])
    await expect(planDayAnswer(plant, { of, link, rpo }, {})).rejects.toThrow('between 1 s and a day');
});

test('runs of plans stand in the commit of their moment: opened anew, none is lost and none comes twice', () => {
  const points = () => subjectAnswer(trabes.plant, ticketing()).points.map((point) => point.at);
  trabes.clock.advance(2 * HOUR);
  const before = points();
  reopen();
  expect(points()).toEqual(before);
  trabes.clock.advance(HOUR);
  const after = points();
  expect(new Set(after).size).toBe(after.length);
  expect(after.slice(0, 2)).toEqual([before[0]! + HOUR, before[0]! + 30 * MINUTE]);
});

test('what was missed is made up for at the very moment of other copies, and takes the place of none', () => {
  const { plant, clock } = trabes;
  const copies = () => [...plant.estate.table('snapshot').values()];
  // To the last half hour, then to the very moment at which plans of both arrays are due.
  clock.advance(DAY - (plant.lab.now % DAY) - 30 * MINUTE);
  changeFault(plant, 'array-down', 'lintel-1', false);
  clock.advance(30 * MINUTE);
  expect(plant.lab.now % DAY).toBe(0);
  const made = copies().filter(({ at }) => at === plant.lab.now);
  expect(made.length).toBeGreaterThan(0);
  changeFault(plant, 'array-down', 'lintel-1', true);
  clock.advance(SECOND);
  const after = new Map(copies().map((copy) => [copy.id, copy.volume]));
  expect(after.size).toBeGreaterThan(made.length);
  for (const { id, volume } of made) expect(after.get(id)).toBe(volume);
  expect(copies().filter(({ at }) => at === plant.lab.now - SECOND).length).toBeGreaterThan(made.length);
  expect(brokenRules(plant.estate)).toEqual([]);
});

test('what is made at one moment twice has ids of its own each time, rows and cuts', () => {
  const { plant } = trabes;
  const due = plans(plant);
  const at = due.next(plant.lab.now, false)!;
  const made = () =>
    due.join!(new Overlay(plant.estate), at).effects.flatMap((one) =>
      one.before === null ? [one.id, one.kind === 'snapshot' ? one.after!.cut : one.id] : [],
    );
  const [first, second] = [new Set(made()), made()];
  expect(second.length).toBeGreaterThan(0);
  expect(second.filter((id) => first.has(id))).toEqual([]);
});

test('where copying fails, time goes on, it is told, and the next run comes', () => {
  const { plant, clock } = trabes;
  const commit = plant.commit.bind(plant);
  const spy = jest.spyOn(plant, 'commit').mockImplementation((wanted) => {
    if (wanted.effects?.some((effect) => effect.kind === 'snapshot')) throw new Error('No ink.');
    commit(wanted);
  });
  const from = plant.lab.now;
  const newest = subjectAnswer(plant, ticketing()).points[0]!.at;
  clock.advance(HOUR);
  expect(plant.lab.now).toBe(from + HOUR);
  expect(plant.troubles.list()).toMatchObject([{ what: 'plans' }]);
  expect(subjectAnswer(plant, ticketing()).points[0]!.at).toBe(newest);
  spy.mockRestore();
  clock.advance(HOUR);
  expect(plant.troubles.list()).toEqual([]);
  expect(subjectAnswer(plant, ticketing()).points[0]!.at).toBeGreaterThan(newest);
});

test('schedules leave as a calendar and come in as one; what is there stays as it is', async () => {
  const calendar = planCalendar(trabes.plant);
  const again = await importCalendar(trabes, calendar);
  expect(again).toMatchObject({ refused: 0, change: null });
  const other = calendar.replaceAll('Harbour day', 'Harbour night').replace('BYDAY=SU', 'BYDAY=SA');
  const { change, refused } = await importCalendar(trabes, other);
  expect(refused).toBe(0);
  expect(change!.operations.map((one) => [one.do, one.name ?? one.plan])).toEqual([
    ['plan.create', 'Harbour night'],
    ['plan.schedule', 'Harbour night'],
    ['plan.schedule', 'Harbour night'],
  ]);
  await expect(importCalendar(trabes, 'no calendar')).rejects.toThrow(/no calendar/);
});
