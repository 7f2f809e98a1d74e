import { demoEstate } from '../../../demo/scenario';
import { changed } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { causesOf, COMPONENT_DOWN } from './causes';
import { checkContext, findings } from './engine';

const NOW = Date.UTC(2031, 3, 28);
const found = (estate: Estate) => findings(estate, checkContext(estate, NOW));
const named = (estate: Estate, kind: 'switch' | 'array', name: string) =>
  [...estate.table(kind).values()].find((row) => row.name === name)!;
const switchDown = (estate: Estate, name: string) =>
  estate.apply([changed('switch', named(estate, 'switch', name) as never, { state: 'down' } as never)]);

test('where nothing is down, every finding stands for itself', () => {
  const { estate } = demoEstate();
  expect(causesOf(estate)).toEqual([]);
  expect(found(estate).every((one) => one.because === null && one.check !== COMPONENT_DOWN)).toBe(true);
});

test('a switch down is named as the cause, and just what it brought hangs on it', () => {
  const { estate } = demoEstate();
  const before = new Set(found(estate).map((one) => `${one.check} ${one.subject.id}`));
  switchDown(estate, 'a2');
  const after = found(estate);
  const [cause, ...others] = after.filter((one) => one.check === COMPONENT_DOWN);
  expect(others).toEqual([]);
  const hanging = after.filter((one) => one.because !== null);
  expect(cause).toMatchObject({ severity: 'error', subject: { name: 'a2' } });
  expect(cause!.says).toBe(`Switch a2 is down: ${hanging.length} findings hang on it.`);
  expect(hanging.length).toBeGreaterThan(3);
  expect(hanging.every((one) => one.because!.name === 'a2')).toBe(true);
  for (const one of after)
    if (one.check !== COMPONENT_DOWN)
      expect([one.check, one.because === null]).toEqual([one.check, before.has(`${one.check} ${one.subject.id}`)]);
});

test('an array whose controllers are down is one cause; what two causes bring together hangs on the greater', () => {
  const { estate } = demoEstate();
  const lintel = named(estate, 'array', 'lintel-1');
  for (const row of estate.table('controller').by('array', lintel.id))
    estate.apply([changed('controller', row, { state: 'down' })]);
  switchDown(estate, 'a2');
  expect(causesOf(estate).map((cause) => [cause.kind, cause.name])).toEqual([
    ['array', 'lintel-1'],
    ['switch', 'a2'],
  ]);
  const causes = found(estate).filter((one) => one.check === COMPONENT_DOWN);
  expect(causes.map((one) => one.subject.name).sort()).toEqual(['a2', 'lintel-1']);
  const hanging = found(estate).filter((one) => one.because !== null);
  expect(hanging.some((one) => one.because!.name === 'lintel-1')).toBe(true);
});
