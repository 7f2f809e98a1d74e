import { pairAfter, stretchedDecide } from './decide';
import { faultTable, orderedPairs } from './fault-table';
import { healthyPair, parts, siteNames, type Part } from './state';

const rowOf = (first: string, pair = healthyPair('A')) => faultTable(pair).find((row) => row.first === first)!;

test.each(siteNames)('the table is what the protocol decides, pair by pair; preferred %s', (preferred) => {
  for (const first of parts)
    for (const then of parts) {
      const cell = rowOf(first, healthyPair(preferred)).cells.find((one) => one.then === then)!;
      if (first === then) {
        expect(cell.states).toBeNull();
        continue;
      }
      const decided = stretchedDecide({ preferred, events: [{ fail: [first] }, { fail: [then] }] });
      expect(decided.ok && { A: decided.value.A, B: decided.value.B }).toEqual(cell.states);
      expect(cell.stopped).toBe(decided.ok && decided.value.serving.length === 0);
    }
});

test('each single failure leaves a site; six ordered pairs leave none, and a site is lost in each of them', () => {
  const single = rowOf('now').cells;
  expect(single.every(({ stopped }) => !stopped)).toBe(true);
  expect(single.map(({ then, takesOver }) => [then, takesOver])).toEqual([
    ['nothing', null],
    ['A', 'B'],
    ['B', 'A'],
    ['W', null],
    ['AB', 'A'],
    ['AW', null],
    ['BW', null],
  ]);
  expect(orderedPairs('A')).toEqual({ all: 30, stopped: 6, withoutSite: 0 });
});

test('as it is now counts what is down already, and a pair that is not whole shows what it will be once it is', () => {
  expect(faultTable(healthyPair('A')).map(({ first }) => first)).toEqual(['now', ...parts]);
  const lost = pairAfter(healthyPair('A'), [{ fail: ['B'] }]);
  const [now, whole] = faultTable(lost.ok ? lost.value : healthyPair('A'));
  expect(whole!.first).toBe('whole');
  const cell = (then: Part) => now!.cells.find((one) => one.then === then)!;
  expect(cell('B').states).toBeNull();
  expect(cell('A')).toMatchObject({ states: { A: 'DOWN', B: 'DOWN' }, stopped: true });
  expect(cell('W')).toMatchObject({ states: { A: 'SOLO', B: 'DOWN' }, stopped: false });
});
