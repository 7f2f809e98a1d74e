import { HOUR, MINUTE } from '../units/duration';
import { beginsAt } from './begins';

// A Monday.
const now = Date.UTC(2031, 3, 14, 6, 4);
const at = (text: string, zone = 'UTC', from = now) => {
  const found = beginsAt(text, zone, from);
  return found.ok ? (found.value === null ? null : new Date(found.value).toISOString().slice(0, 16)) : found.reason;
};

test.each([
  ['', 'UTC', null],
  ['2031-05-02', 'UTC', '2031-05-02T00:00'],
  ['2031-05-02 22:30', 'UTC', '2031-05-02T22:30'],
  ['2031-05-02 22:30', 'Europe/Oslo', '2031-05-02T20:30'],
  // Today, though it began already: as soon as it may.
  ['2031-04-14', 'UTC', '2031-04-14T00:00'],
  ['SU 02:00', 'UTC', '2031-04-20T02:00'],
  ['SU 02:00', 'Europe/Oslo', '2031-04-20T00:00'],
  ['day 06:04', 'UTC', '2031-04-15T06:04'],
  ['day 06:05', 'UTC', '2031-04-14T06:05'],
  ['month 1 22:00', 'UTC', '2031-05-01T22:00'],
  ['FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=29;BYHOUR=3', 'UTC', '2032-02-29T03:00'],
])('%s in %s begins %s', (text, zone, expected) => expect(at(text, zone)).toBe(expected));

test.each([
  ['2031-04-31', 'date-unreadable'],
  ['2031-05-02 24:30', 'schedule-start'],
  ['2031-04-13', 'begins-behind'],
  ['2031-04-14 06:04', 'begins-behind'],
  ['soon', 'every-unreadable'],
  ['FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30', 'rrule-never-fires'],
])('%s is refused: %s', (text, reason) => expect(at(text)).toBe(reason));

test('a zone that there is not', () => expect(at('', 'Nordkai/Harbour')).toBe('schedule-zone-unknown'));

test('a local time that the clock change leaves out is read by the clock before it', () => {
  // In Oslo the clocks went from 02:00 to 03:00 on 30 March 2031.
  expect(at('2031-03-30 02:30', 'Europe/Oslo', now - 30 * 24 * HOUR)).toBe('2031-03-30T01:30');
  expect(at('SU 02:30', 'Europe/Oslo', Date.UTC(2031, 2, 29) + MINUTE)).toBe('2031-03-30T01:30');
});
