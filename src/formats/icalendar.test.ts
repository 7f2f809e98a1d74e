import { expandRecurrence, type Recurrence } from '@/core/schedule/recurrence';
import { readCalendar, writeCalendar, type CalendarEntry } from './icalendar';

const at = (text: string) => Date.parse(text);
const stamp = at('2031-04-14T06:00:00Z');
const entry = (summary: string, recurrence: Recurrence): CalendarEntry => ({
  uid: `${summary.toLowerCase().replace(/ /g, '-')}@skarholt.example`,
  summary,
  recurrence,
});
const entries = [
  entry('Tickets, half-hourly', { rrule: 'FREQ=MINUTELY;INTERVAL=30', dtstart: '2031-04-14T00:00:00', tz: 'UTC' }),
  entry('Cargo by night', {
    rrule: 'FREQ=DAILY;BYHOUR=2;BYMINUTE=15',
    dtstart: '2031-03-01T02:15:00',
    tz: 'Europe/Oslo',
    exdates: [at('2031-05-17T00:15:00Z')],
  }),
  entry('First working day', {
    rrule: 'FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=1;BYHOUR=22;BYMINUTE=0',
    dtstart: '2031-01-01T22:00:00',
    tz: 'Europe/Amsterdam',
  }),
];
const runsOf = ({ recurrence }: CalendarEntry) => {
  const runs = expandRecurrence({ ...recurrence, from: at('2031-03-01T00:00:00Z'), to: at('2031-06-01T00:00:00Z') });
  return runs.ok ? runs.value : [runs.reason];
};
const back = (text: string): CalendarEntry[] => {
  const read = readCalendar(text);
  if (!read.ok) throw new Error(read.message);
  return read.value;
};

test('schedules that leave come back with the same runs', () => {
  const read = back(writeCalendar(entries, stamp));
  expect(read.map(({ uid, summary, recurrence }) => [uid, summary, recurrence.dtstart, recurrence.tz])).toEqual(
    entries.map(({ uid, summary, recurrence }) => [uid, summary, recurrence.dtstart, recurrence.tz]),
  );
  expect(read.map(runsOf)).toEqual(entries.map(runsOf));
});

test('what is written is a calendar: lines end as they must, zones tell their changes', () => {
  const text = writeCalendar(entries, stamp);
  expect(text.split('\r\n').every((line) => !line.includes('\n') && line.length <= 75)).toBe(true);
  expect(text).toContain('DTSTAMP:20310414T060000Z');
  expect(text).toContain('DTSTART;TZID=Europe/Oslo:20310301T021500');
  const zone = text.slice(text.indexOf('BEGIN:VTIMEZONE'), text.indexOf('END:VTIMEZONE'));
  expect(zone).toContain('TZID:Europe/Oslo');
  // The clock goes from 2 to 3 on the last Sunday of March.
  expect(zone).toMatch(/BEGIN:DAYLIGHT\r\nDTSTART:20310330T020000\r\nTZOFFSETFROM:\+0100\r\nTZOFFSETTO:\+0200/);
});

const calendar = (...lines: string[]) =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', 'BEGIN:VEVENT', 'SUMMARY:Night', ...lines, 'END:VEVENT', 'END:VCALENDAR'].join(
    '\r\n',
  );
const reason = (text: string) => {
  const read = readCalendar(text);
  return read.ok ? null : read.reason;
};

test.each([
  ['no calendar', 'rota: none', 'calendar-unreadable'],
  ['nothing that recurs', calendar('DTSTART:20310414T060000Z'), 'calendar-empty'],
  ['a start without a zone', calendar('DTSTART:20310414T060000', 'RRULE:FREQ=DAILY'), 'calendar-floating'],
  ['a start without a time', calendar('DTSTART;VALUE=DATE:20310414', 'RRULE:FREQ=DAILY'), 'schedule-start'],
  [
    'a zone nobody knows',
    calendar('DTSTART;TZID=Skarholt:20310414T060000', 'RRULE:FREQ=DAILY'),
    'schedule-zone-unknown',
  ],
  ['a rule that is not offered', calendar('DTSTART:20310414T060000Z', 'RRULE:FREQ=SECONDLY'), 'rrule-freq-unsupported'],
  [
    'several rules',
    calendar('DTSTART:20310414T060000Z', 'RRULE:FREQ=DAILY', 'RRULE:FREQ=WEEKLY'),
    'calendar-several-rules',
  ],
])('%s is refused', (_what, text, wanted) => expect(reason(text)).toBe(wanted));

test('exceptions in a zone of their own are instants', () => {
  const [read] = back(
    calendar(
      'DTSTART;TZID=Europe/Oslo:20310414T060000',
      'RRULE:FREQ=DAILY',
      'EXDATE;TZID=Europe/Oslo:20310415T060000,20310416T060000',
    ),
  );
  expect(read!.recurrence.exdates).toEqual([at('2031-04-15T04:00:00Z'), at('2031-04-16T04:00:00Z')]);
});
