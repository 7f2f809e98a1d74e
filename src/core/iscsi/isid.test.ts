import { carryOut, estateAfter, mapped, named } from '../../../demo/workbench';
import { pathFinder } from '../attach/paths';
import { planChange } from '../change/plan';
import { basis } from '../../../demo/workbench';
import { firstBreak } from '../trace/first-break.fixture';
import { isidOf, isidType, parseIsid, reinstated } from './isid';

test.each([
  ['0x80A1B2C30001', '80a1b2c30001'],
  ['00:02:3d:00:00:01', '00023d000001'],
  [' 400123456789 ', '400123456789'],
  ['', 'empty'],
  ['0x80', 'bad-isid'],
  ['80a1b2c3000g', 'bad-isid'],
  ['c00000000001', 'isid-reserved'],
])('ISID %p gives %p', (text, expected) => {
  const result = parseIsid(text);
  expect(result.ok ? result.value : result.reason).toBe(expected);
});

test('its first two bits say who made it', () =>
  expect(['00023d000001', '40023d000001', '80023d000001', 'c0023d000001'].map(isidType)).toEqual([
    'IEEE company id',
    'enterprise number',
    'random',
    'reserved',
  ]));

test('without one of its own an interface has a random one that stays', () => {
  expect(isidOf({ id: 'if_a', isid: null })).toMatch(/^80[0-9a-f]{10}$/);
  expect(isidOf({ id: 'if_a', isid: null })).toBe(isidOf({ id: 'if_a', isid: null }));
  expect(isidOf({ id: 'if_a', isid: null })).not.toBe(isidOf({ id: 'if_b', isid: null }));
});

test('one name in one portal group stays once; groups, interfaces and turns tell sessions apart', () => {
  const session = (from: string, group: number, isid: string) => ({ from, group, isid });
  const [a, b, c, d] = [session('x', 1, 'i'), session('x', 1, 'i'), session('y', 1, 'i'), session('y', 2, 'i')];
  expect([...reinstated([a, b, c, d])]).toEqual([a]);
  expect(reinstated([session('x', 1, 'i'), session('y', 1, 'j')]).size).toBe(0);
});

test('two interfaces with one ISID keep half of the sessions, and the trace says why', () => {
  const estate = estateAfter(mapped);
  carryOut(estate, [{ do: 'interface.configure', host: 'gate-1', interface: 'eth0', isid: '0x800000000001' }], 'a');
  const paths = () => pathFinder(estate).paths([...estate.table('mapping').values()][0]!);
  expect(paths().usable).toBe(4);
  carryOut(estate, [{ do: 'interface.configure', host: 'gate-1', interface: 'eth1', isid: '0x800000000001' }], 'b');
  expect([paths().usable, [...new Set(paths().missing.map((gap) => gap.reason))]]).toEqual([2, ['session-reinstated']]);
  expect(paths().found.every((path) => path.interface === named(estate, 'interface', 'eth1').id)).toBe(true);
  carryOut(estate, [{ do: 'interface.configure', host: 'gate-1', interface: 'eth1', isid: 'none' }], 'c');
  expect(paths().usable).toBe(4);
  expect(firstBreak(estate, 'gate-1', 'tickets-1')).not.toEqual([11, 'session-reinstated']);
});

test('a reserved ISID is refused', () =>
  expect(
    planChange(
      estateAfter(mapped),
      [{ do: 'interface.configure', host: 'gate-1', interface: 'eth0', isid: 'ff0000000000' }],
      basis,
    ).refusals.map(({ code, field }) => [code, field]),
  ).toEqual([['isid-reserved', 'isid']]));
