import fc from 'fast-check';
import { changed } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import { faults } from '../lab/broken';
import type { FaultKind } from '../lab/fault-kinds';
import { clearFault, setFault } from '../lab/faults';
import { lookUp } from '../operation/inquiry';
import { GIB, MIB } from '../units/bytes';
import { DAY, HOUR, MINUTE } from '../units/duration';
import { named } from '../../../demo/workbench';
import { copying, elsewhere, replicate } from '../../../demo/replicated';
import { stage, type Stage } from '../../../demo/protected';
import { isDay, lineRate, lineRateAt, nextTurnOfDay } from './line';
import { sentBy } from './carry';

const link = (at: Stage) => named(at.estate, 'siteLink', 'dark fibre');
const row = (at: Stage) => lookUp(at.estate, 'replication', 'Ticketing')!;
const ids = newIds('line');
function fault(at: Stage, kind: FaultKind, id: string, clear = false): string {
  const done = (clear ? clearFault : setFault)(at.estate, kind, id, at.now, ids);
  if (!done.ok) return done.refusals[0]!.code;
  at.estate.apply(done.effects);
  return done.said;
}

test('day and night turn where they should', () =>
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 4_000_000_000_000 }), (now) => {
      const at = nextTurnOfDay(now);
      expect(at).toBeGreaterThan(now);
      expect(at - now).toBeLessThanOrEqual(16 * HOUR);
      expect(isDay(at)).not.toBe(isDay(at - 1));
      expect(isDay(now)).toBe(isDay(at - 1));
    }),
  ));

test('by day a line gives less, and what is under way is quicker from the turn on', () => {
  const at = stage(...elsewhere);
  at.run({ do: 'site-link.configure', link: 'dark fibre', dayCap: '256 KiB/s', nightCap: '100 MiB/s' }, replicate);
  const day = at.now - (at.now % DAY) + 12 * HOUR;
  expect(lineRateAt(link(at), day)).toBe(MIB / 4);
  expect(lineRateAt(link(at), day + 12 * HOUR)).toBe(100 * MIB);
  at.pass(MINUTE);
  // The first copy runs into the night.
  const turn = nextTurnOfDay(at.now);
  expect(isDay(at.now)).toBe(true);
  at.pass(turn - at.now - MINUTE);
  const before = sentBy(row(at).carrying!, at.now);
  at.pass(MINUTE);
  expect(sentBy(row(at).carrying!, at.now) - before).toBeCloseTo(15 * MIB, -3);
  const begun = sentBy(row(at).carrying!, at.now);
  at.pass(MINUTE);
  expect(sentBy(row(at).carrying!, at.now) - begun).toBeCloseTo(6000 * MIB, -3);
  expect(row(at).carrying!.wire).toBeGreaterThan(GIB);
});

test.each([
  ['nothing', '0 MiB/s', 'cap-nothing'],
  ['no rate', 'much', 'not-a-size'],
])('a cap that is %s is refused', (_, dayCap, code) => {
  const at = stage(...elsewhere);
  const [refusal] = at.codes({ do: 'site-link.configure', link: 'dark fibre', dayCap });
  expect([code, 'unit-missing', 'not-a-size']).toContain(refusal);
});

test('a slow line brings less through and takes longer; a lossy one loses; both are mended', () => {
  const at = copying();
  const whole = lineRate(link(at)).bytesPerS;
  const { id } = link(at);
  expect(fault(at, 'site-link-slow', id)).toBe('link dark fibre brings a tenth through, five times as slowly');
  expect(lineRate(link(at)).bytesPerS).toBeCloseTo(whole / 10, 0);
  expect(fault(at, 'site-link-slow', id)).toBe('fault-set');
  expect(fault(at, 'site-link-lossy', id)).toContain('loses 1 %');
  expect(lineRate(link(at)).boundBy).toBe('loss');
  expect(faults(at.estate).map(({ kind }) => kind)).toEqual(['site-link-slow', 'site-link-lossy']);
  fault(at, 'site-link-slow', id, true);
  fault(at, 'site-link-lossy', id, true);
  expect(lineRate(link(at)).bytesPerS).toBe(whole);
  expect(fault(at, 'site-link-lossy', id, true)).toBe('no-fault');
});

test('a whole site is lost and comes back with all its parts', () => {
  const at = copying();
  at.pass(HOUR);
  const site = named(at.estate, 'site', 'Molenhaven').id;
  expect(fault(at, 'site-down', site)).toBe('Molenhaven is down');
  at.pass(MINUTE);
  expect(row(at)).toMatchObject({ state: 'broken', siteS: 'down' });
  expect(fault(at, 'site-down', site)).toBe('fault-set');
  expect(fault(at, 'site-down', site, true)).toBe('Molenhaven is up again');
  at.pass(20 * MINUTE);
  expect(row(at).state).toBe('protected');
  expect(faults(at.estate)).toEqual([]);
  at.estate.apply([changed('siteLink', link(at), { state: 'up' })]);
});
