import { daysOf } from '../units/date';
import { DAY } from '../units/duration';
import { everyWords, parseEvery } from './every';

const today = daysOf(2031, 4, 14) * DAY + 7 * 3_600_000;

test.each([
  ['30 min', 'FREQ=MINUTELY;INTERVAL=30', '2031-04-14T00:00:00'],
  ['every 4 h', 'FREQ=HOURLY;INTERVAL=4', '2031-04-14T00:00:00'],
  ['day 04:00', 'FREQ=DAILY;BYHOUR=4;BYMINUTE=0', '2031-04-14T04:00:00'],
  ['daily at 6:15, 18:15', 'FREQ=DAILY;BYHOUR=6,18;BYMINUTE=15', '2031-04-14T06:15:00'],
  ['Sunday 04:00', 'FREQ=WEEKLY;BYDAY=SU;BYHOUR=4;BYMINUTE=0', '2031-04-14T04:00:00'],
  ['mo,WE 22:30', 'FREQ=WEEKLY;BYDAY=MO,WE;BYHOUR=22;BYMINUTE=30', '2031-04-14T22:30:00'],
  ['month -1 23:00', 'FREQ=MONTHLY;BYMONTHDAY=-1;BYHOUR=23;BYMINUTE=0', '2031-04-14T23:00:00'],
  ['RRULE:freq=weekly;byday=tu', 'FREQ=WEEKLY;BYDAY=TU', '2031-04-14T00:00:00'],
])('%s', (text, rule, start) => {
  expect(parseEvery(text, today)).toMatchObject({ ok: true, value: { rule, start } });
});

test.each([
  ['', 'every-unreadable'],
  ['now and then', 'every-unreadable'],
  ['0 min', 'every-unreadable'],
  ['day 25:00', 'every-unreadable'],
  ['day 04:00,05:30', 'every-unreadable'],
  ['FREQ=SECONDLY', 'rrule-freq-unsupported'],
  ['month 32 04:00', 'rrule-value'],
])('%p is refused', (text, reason) => {
  expect(parseEvery(text, today)).toMatchObject({ ok: false, reason });
});

test.each(['30 min', '4 h', 'day 04:00', 'day 06:15,18:15', 'SU 04:00', 'MO,WE 22:30', 'month 1 22:00'])(
  '%s is said as it was written',
  (text) => {
    const read = parseEvery(text, today);
    expect(read.ok && everyWords(read.value.rule)).toBe(text);
  },
);

test('what has no plain words is said as a rule', () => {
  for (const rule of [
    'FREQ=MONTHLY;BYDAY=1MO;BYHOUR=4;BYMINUTE=0',
    'FREQ=DAILY;INTERVAL=2;BYHOUR=4;BYMINUTE=0',
    'FREQ=DAILY;COUNT=3',
  ])
    expect(everyWords(rule)).toBe(rule);
});
