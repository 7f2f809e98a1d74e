import { basis, carryOut, codesOf, estateAfter, mounted, named, refusalsOf } from '../../../demo/workbench';
import { volumeActivity } from './activity';
import { workSeconds } from '../copies/activity';
import { estateDocument, estateFromDocument, estateToDocument } from '../estate/document';
import { loadModel } from '../performance/model';
import { busyAt } from '../performance/profile';
import { MONDAY } from '../replicate/planner';
import { DAY, HOUR } from '../units/duration';

const busy = (more: object) => ({ do: 'volume.activity', array: 'lintel-1', volumes: ['tickets-1'], ...more });
const mornings = 'Mon-Fri 06-12: 9, else: 1';

test('a volume is as busy as is said, hour by hour, wherever that counts', () => {
  const estate = estateAfter([...mounted, busy({ kind: 'database', hours: ' mon-fri 6-12:9;else:1 ' })]);
  const { activity } = named(estate, 'volume', 'tickets-1');
  expect(activity!.week).toBe(mornings);
  const mean = (5 * 6 * 9 + (168 - 30)) / 168;
  expect(workSeconds(activity!.week, MONDAY + 6 * HOUR, MONDAY + 12 * HOUR)).toBeCloseTo((6 * 3600 * 9) / mean, 6);
  expect(workSeconds(activity!.week, MONDAY, MONDAY + 7 * DAY)).toBeCloseTo(7 * 86_400, 6);
  expect(busyAt(loadModel(estate).volumes[0]!.week, MONDAY + 8 * HOUR)).toBeCloseTo(9 / mean, 9);
  // It leaves and comes back with the estate.
  const text = JSON.parse(JSON.stringify(estateToDocument(estate))) as unknown;
  const again = estateFromDocument(estateDocument.parse(text));
  expect(named(again, 'volume', 'tickets-1').activity!.week).toBe(mornings);
  // A usual shape takes its place; the same hours said otherwise change nothing.
  expect(codesOf(estate, busy({ hours: 'Mon-Fri 06-12: 9, else: 1' }))).toEqual(['nothing-changes']);
  carryOut(estate, [busy({ week: 'night' })], 'night');
  expect(named(estate, 'volume', 'tickets-1').activity!.week).toBe('night');
});

test('hours that cannot be read are refused where they are said, with an example', () => {
  const estate = estateAfter([...mounted, busy({ kind: 'database' })]);
  const [refusal] = refusalsOf(estate, busy({ hours: 'office hours' }));
  expect(refusal).toMatchObject({ code: 'week-unclear', field: 'hours' });
  expect(`${refusal!.message} ${refusal!.mend}`).toContain('Mon-Fri 07-18: 8, else: 1');
  expect(codesOf(estate, busy({ hours: 'Mon: 0' }))).toEqual(['week-idle']);
});

test('the form tells what cannot be read before a volume is chosen', () => {
  const estate = estateAfter([...mounted, busy({ kind: 'database', hours: mornings })]);
  const says = (given: object) =>
    volumeActivity.foretell(estate, { array: 'lintel-1', ...given }, basis as never).fields.hours!.says;
  expect(says({ hours: 'whenever' })).toContain('names no days, hours and how busy they are');
  expect(says({ volumes: ['tickets-1'] })).toContain(mornings);
  expect(says({ hours: 'Mon: 1' })).toContain('only proportions matter');
});

test('a row never holds a week that cannot be read', () => {
  const estate = estateAfter([...mounted, busy({ kind: 'database', hours: mornings })]);
  const text = JSON.stringify(estateToDocument(estate)).replaceAll(mornings, 'whenever');
  expect(estateDocument.safeParse(JSON.parse(text)).success).toBe(false);
});
