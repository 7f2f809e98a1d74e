import { DAY, SECOND } from '../units/duration';
import { effectiveNow, lockChange, type LockWish } from './lock';

const at = (text: string) => Date.parse(text);
const now = at('2031-05-02T12:00:00Z');
const current = at('2031-05-20T00:00:00Z');
const wish = (more: Partial<LockWish>) => {
  const found = lockChange({ now, mode: 'strict', currentUntil: current, wantedUntil: current - DAY, ...more });
  return found.ok ? found.value.lockedUntil : found.reason;
};

test('a strict lock is only lengthened', () => {
  expect(wish({})).toBe('lock-cannot-shorten');
  expect(wish({ wantedUntil: null })).toBe('lock-cannot-shorten');
  expect(wish({ approvers: ['ida', 'tor'] })).toBe('lock-cannot-shorten');
  expect(wish({ wantedUntil: current + DAY })).toBe(current + DAY);
});

test('a dual one is shortened by two people', () => {
  expect(wish({ mode: 'dual', approvers: ['ida', 'ida'] })).toBe('lock-needs-two-people');
  expect(wish({ mode: 'dual', approvers: ['ida', 'tor'] })).toBe(current - DAY);
  expect(wish({ mode: 'dual', wantedUntil: null, approvers: ['ida', 'tor'] })).toBeNull();
});

test('where none is active, one in the past is refused', () => {
  expect(wish({ currentUntil: now, wantedUntil: now })).toBe('lock-in-the-past');
  expect(wish({ currentUntil: null, wantedUntil: null })).toBeNull();
  expect(wish({ currentUntil: now, wantedUntil: now + 1 })).toBe(now + 1);
});

test('a clock that is set forward frees nothing, one set back holds longer', () => {
  const lastTrusted = now;
  expect(effectiveNow({ lastTrusted, elapsed: 90 * SECOND, systemClock: at('2031-07-01T00:00:00Z') })).toBe(
    now + 90 * SECOND,
  );
  expect(effectiveNow({ lastTrusted, elapsed: 90 * SECOND, systemClock: now - DAY })).toBe(now - DAY);
});
