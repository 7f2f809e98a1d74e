import fc from 'fast-check';
import { DAY, HOUR, MINUTE } from '../units/duration';
import { expandRecurrence, summariseRecurrence, validateRecurrence, type Recurrence } from './recurrence';
import { parseRule, weekdays, type Rule } from './rule';
import { zoneOf } from './zone';

const at = (text: string) => Date.parse(text);
const texts = (runs: readonly number[]) => runs.map((run) => new Date(run).toISOString().replace('.000Z', 'Z'));
const expand = (rrule: string, dtstart: string, from: string, to: string, more: Partial<Recurrence> = {}) => {
  const runs = expandRecurrence({ rrule, dtstart, tz: 'Europe/Oslo', from: at(from), to: at(to), ...more });
  return runs.ok ? texts(runs.value) : [runs.reason];
};
const refusal = (rrule: string, more: Partial<Recurrence> = {}) => {
  const first = validateRecurrence({ rrule, dtstart: '2031-01-01T00:00:00', tz: 'Europe/Oslo', ...more });
  return first.ok ? null : first.reason;
};

describe('when clocks change', () => {
  const weekly = 'FREQ=WEEKLY;BYDAY=SU;BYHOUR=2;BYMINUTE=15';
  test('a local time that is left out comes later by the gap, or not at all', () => {
    const of = (gap: 'shift' | 'skip') =>
      expand(weekly, '2031-03-16T02:15:00', '2031-03-01T00:00:00Z', '2031-04-07T00:00:00Z', { gap });
    const shifted = ['2031-03-16T01:15:00Z', '2031-03-23T01:15:00Z', '2031-03-30T01:15:00Z', '2031-04-06T00:15:00Z'];
    expect(of('shift')).toEqual(shifted);
    expect(of('skip')).toEqual(shifted.filter((_, k) => k !== 2));
  });

  test('a time that is skipped does not use up the count; one that is excluded does', () => {
    const of = (more: Partial<Recurrence>) =>
      expand(`${weekly};COUNT=3`, '2031-03-16T02:15:00', '2031-03-01T00:00:00Z', '2032-01-01T00:00:00Z', more);
    expect(of({ gap: 'skip' })).toEqual(['2031-03-16T01:15:00Z', '2031-03-23T01:15:00Z', '2031-04-06T00:15:00Z']);
    expect(of({ exdates: [at('2031-03-23T01:15:00Z')] })).toEqual(['2031-03-16T01:15:00Z', '2031-03-30T01:15:00Z']);
  });

  test('a time that comes twice is the first one, once', () => {
    expect(expand('FREQ=DAILY', '2031-10-25T02:30:00', '2031-10-25T00:00:00Z', '2031-10-28T00:00:00Z')).toEqual([
      '2031-10-25T00:30:00Z',
      '2031-10-26T00:30:00Z',
      '2031-10-27T01:30:00Z',
    ]);
  });

  test('what is shifted onto another run is one with it', () => {
    const runs = expand(
      'FREQ=DAILY;BYHOUR=2,3;BYMINUTE=30',
      '2031-03-29T00:00:00',
      '2031-03-30T00:00:00Z',
      '2031-03-31T00:00:00Z',
    );
    expect(runs).toEqual(['2031-03-30T01:30:00Z']);
  });

  test('an interval keeps its spacing; the wall clock has a long gap', () => {
    const window = ['2031-10-25T00:00:00Z', '2031-10-27T00:00:00Z'] as const;
    expect(expand('FREQ=HOURLY;INTERVAL=6', '2031-10-25T19:40:00', ...window)).toEqual([
      '2031-10-25T17:40:00Z',
      '2031-10-25T23:40:00Z',
      '2031-10-26T05:40:00Z',
      '2031-10-26T11:40:00Z',
      '2031-10-26T17:40:00Z',
      '2031-10-26T23:40:00Z',
    ]);
    const wall = summariseRecurrence({
      rrule: 'FREQ=DAILY;BYHOUR=0,6,12,18',
      dtstart: '2031-10-25T00:00:00',
      tz: 'Europe/Oslo',
      from: at(window[0]),
      to: at(window[1]),
    });
    expect(wall).toMatchObject({ ok: true, value: { maxGap: 25_200_000, minGap: 6 * HOUR } });
  });

  test('a whole day left out over the date line is met by the next', () => {
    const zone = zoneOf('Pacific/Apia')!;
    // Samoa went from the 29th to the 31st of December 2011.
    expect(zone.instantOf(at('2011-12-30T12:00:00Z'))).toBe(zone.instantOf(at('2011-12-31T12:00:00Z')));
    expect(zone.instantOf(at('2011-12-30T12:00:00Z'), 'skip')).toBeNull();
  });

  test('a zone shows what its clock shows', () => {
    const zone = zoneOf('Europe/Oslo')!;
    fc.assert(
      fc.property(
        fc.integer({ min: at('1995-01-01T00:00:00Z') / 1000, max: at('2036-01-01T00:00:00Z') / 1000 }),
        (s) => {
          const instant = s * 1000;
          const parts = new Intl.DateTimeFormat('sv-SE', {
            timeZone: zone.name,
            dateStyle: 'short',
            timeStyle: 'medium',
          });
          expect(`${parts.format(instant).replace(' ', 'T')}Z`).toBe(texts([zone.wallAt(instant)])[0]);
          const back = zone.instantOf(zone.wallAt(instant))!;
          expect(back === instant || back === instant - HOUR).toBe(true);
        },
      ),
    );
  });
});

describe('the calendar', () => {
  test('the first working day of each month', () => {
    const rrule = 'FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=1;BYHOUR=22;BYMINUTE=0';
    expect(expand(rrule, '2031-01-01T22:00:00', '2031-01-01T00:00:00Z', '2031-07-01T00:00:00Z')).toEqual([
      '2031-01-01T21:00:00Z',
      '2031-02-03T21:00:00Z',
      '2031-03-03T21:00:00Z',
      '2031-04-01T20:00:00Z',
      '2031-05-01T20:00:00Z',
      '2031-06-02T20:00:00Z',
    ]);
  });

  test('months without the day are left out; years without the leap day too', () => {
    expect(expand('FREQ=MONTHLY', '2031-01-31T12:00:00', '2031-01-01T00:00:00Z', '2031-06-01T00:00:00Z')).toHaveLength(
      3,
    );
    expect(expand('FREQ=YEARLY', '2032-02-29T12:00:00', '2032-01-01T00:00:00Z', '2041-01-01T00:00:00Z')).toEqual([
      '2032-02-29T11:00:00Z',
      '2036-02-29T11:00:00Z',
      '2040-02-29T11:00:00Z',
    ]);
  });

  test('the start is a run only if it fits, and a position is counted over its whole period', () => {
    const rrule = 'FREQ=MONTHLY;BYMONTHDAY=5,20;BYSETPOS=1';
    expect(expand(rrule, '2031-01-10T00:00:00', '2031-01-01T00:00:00Z', '2031-03-01T00:00:00Z')).toEqual([
      '2031-02-04T23:00:00Z',
    ]);
  });

  /** Rules drawn at random, against a look at each single day. */
  test('rules come out as a look at each day of each period finds them', () => {
    const some = <T>(from: fc.Arbitrary<T>) =>
      fc.option(fc.uniqueArray(from, { minLength: 1, maxLength: 3 }), { nil: null });
    const day = fc.constantFrom('MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU');
    const ordinal = fc.constantFrom('1', '-1', '2', '3', '-2');
    fc.assert(
      fc.property(
        fc.constantFrom('DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'),
        fc.integer({ min: 1, max: 5 }),
        some(fc.integer({ min: 1, max: 12 })),
        some(fc.constantFrom(1, 5, 13, 28, 29, 30, 31, -1, -2)),
        some(day),
        fc.option(ordinal, { nil: null }),
        some(fc.integer({ min: 0, max: 23 })),
        fc.option(fc.constantFrom(1, 2, -1, 5), { nil: null }),
        fc.constantFrom('MO', 'SU', 'WE'),
        fc.constantFrom('2031-01-01T07:30:00', '2032-02-29T23:15:00', '2031-10-31T00:00:00'),
        (freq, interval, months, monthDays, days, nth, hours, position, weekStart, dtstart) => {
          const ordinals = nth !== null && (freq === 'MONTHLY' || freq === 'YEARLY');
          const parts = [
            `FREQ=${freq}`,
            `INTERVAL=${interval}`,
            months && `BYMONTH=${months.join()}`,
            monthDays && freq !== 'WEEKLY' && `BYMONTHDAY=${monthDays.join()}`,
            days && `BYDAY=${days.map((one) => (ordinals ? nth : '') + one).join()}`,
            hours && `BYHOUR=${hours.sort((a, b) => a - b).join()}`,
            // With nothing that expands, a position is the whole of the period.
            position !== null && (days || monthDays || hours) && `BYSETPOS=${position}`,
            `WKST=${weekStart}`,
          ].filter((part) => typeof part === 'string');
          const from = at(`${dtstart}Z`);
          const to = from + 500 * DAY;
          const ours = expandRecurrence({ rrule: parts.join(';'), dtstart, tz: 'UTC', from, to });
          const rule = parseRule(parts.join(';'));
          if (!rule.ok || !ours.ok) throw new Error(parts.join(';'));
          const wanted = lookedThrough(rule.value, from, to);
          expect(ours.value.map((run) => new Date(run).toISOString()).join()).toBe(
            wanted.map((run) => new Date(run).toISOString()).join(),
          );
        },
      ),
      { numRuns: 200 },
    );
  });
});

/** What a rule DAILY or longer comes to in UTC, found by asking of every day whether it belongs: slow, and written the other way round. */
function lookedThrough(rule: Rule, start: number, to: number): number[] {
  const anchor = new Date(start);
  const weekOf = (day: number) => Math.floor((day / DAY + 3 - rule.weekStart) / 7);
  const yearMonth = (date: Date) => date.getUTCFullYear() * 12 + date.getUTCMonth();
  const periodOf = (day: number): number => {
    const date = new Date(day);
    if (rule.freq === 'DAILY') return Math.floor(day / DAY) - Math.floor(start / DAY);
    if (rule.freq === 'WEEKLY') return weekOf(day) - weekOf(Math.floor(start / DAY) * DAY);
    if (rule.freq === 'MONTHLY') return yearMonth(date) - yearMonth(anchor);
    return date.getUTCFullYear() - anchor.getUTCFullYear();
  };
  const lastOf = (date: Date) => new Date(Date.UTC(date.getUTCFullYear(), date.getUTCMonth() + 1, 0)).getUTCDate();
  /** How many of its weekday come up to this day in its month or year, from the start and from the end. */
  const nth = (date: Date): [number, number] => {
    const inMonth = rule.freq === 'MONTHLY' || rule.months !== null;
    const y = date.getUTCFullYear();
    const first = inMonth ? Date.UTC(y, date.getUTCMonth(), 1) : Date.UTC(y, 0, 1);
    const last = inMonth ? Date.UTC(y, date.getUTCMonth() + 1, 0) : Date.UTC(y, 11, 31);
    return [Math.floor((date.getTime() - first) / (7 * DAY)) + 1, -Math.floor((last - date.getTime()) / (7 * DAY)) - 1];
  };
  const belongs = (day: number): boolean => {
    const date = new Date(day);
    const weekday = weekdays[(date.getUTCDay() + 6) % 7];
    if (rule.months && !rule.months.includes(date.getUTCMonth() + 1)) return false;
    if (rule.monthDays && !rule.monthDays.some((d) => date.getUTCDate() === (d > 0 ? d : lastOf(date) + 1 + d)))
      return false;
    if (
      rule.days &&
      !rule.days.some((d) => weekdays[d.day] === weekday && (d.ordinal === null || nth(date).includes(d.ordinal)))
    )
      return false;
    if (rule.days || rule.monthDays) return true;
    if (rule.freq === 'WEEKLY') return date.getUTCDay() === anchor.getUTCDay();
    if (rule.freq === 'DAILY') return true;
    if (date.getUTCDate() !== anchor.getUTCDate()) return false;
    return rule.freq === 'MONTHLY' || rule.months !== null || date.getUTCMonth() === anchor.getUTCMonth();
  };
  const periods = new Map<number, number[]>();
  const begin = Date.UTC(anchor.getUTCFullYear(), 0, 1) - 7 * DAY;
  for (let day = begin; day < to + 370 * DAY; day += DAY) {
    const period = periodOf(day);
    if (period < 0 || period % rule.interval !== 0 || !belongs(day)) continue;
    const times = (rule.hours ?? [anchor.getUTCHours()]).map((hour) => day + hour * HOUR + (start % HOUR));
    periods.set(period, [...(periods.get(period) ?? []), ...times]);
  }
  const all = [...periods.values()].flatMap((set) =>
    rule.positions ? rule.positions.flatMap((p) => (p > 0 ? set[p - 1] : set[set.length + p]) ?? []) : set,
  );
  return all.filter((run) => run >= start && run < to).sort((a, b) => a - b);
}

describe('by elapsed time', () => {
  test('limits are read from the local clock', () => {
    expect(
      expand(
        'FREQ=MINUTELY;INTERVAL=30;BYHOUR=2',
        '2031-03-29T00:00:00',
        '2031-03-29T00:00:00Z',
        '2031-04-01T00:00:00Z',
      ),
    ).toEqual(['2031-03-29T01:00:00Z', '2031-03-29T01:30:00Z', '2031-03-31T00:00:00Z', '2031-03-31T00:30:00Z']);
  });

  test('the listed minutes of every other hour', () => {
    expect(
      expand(
        'FREQ=HOURLY;INTERVAL=2;BYMINUTE=10,40',
        '2031-05-02T08:20:00',
        '2031-05-02T00:00:00Z',
        '2031-05-02T11:00:00Z',
      ),
    ).toEqual([
      '2031-05-02T06:40:00Z',
      '2031-05-02T08:10:00Z',
      '2031-05-02T08:40:00Z',
      '2031-05-02T10:10:00Z',
      '2031-05-02T10:40:00Z',
    ]);
  });

  test('whatever is stepped over, every minute that fits is there', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(1, 7, 30, 45),
        fc.option(fc.constantFrom<number[]>([2], [2, 3], [0, 23]), { nil: null }),
        fc.option(fc.constantFrom<number[]>([0], [15, 45], [7, 14, 59]), { nil: null }),
        fc.option(fc.constantFrom<string[]>(['SU'], ['MO', 'SU']), { nil: null }),
        (interval, hours, minutes, days) => {
          const dtstart = '2031-10-24T13:07:00';
          const rrule = [
            `FREQ=MINUTELY;INTERVAL=${interval}`,
            hours && `BYHOUR=${hours.join()}`,
            minutes && `BYMINUTE=${minutes.join()}`,
            days && `BYDAY=${days.join()}`,
          ]
            .filter(Boolean)
            .join(';');
          const from = at('2031-10-24T11:07:00Z');
          const to = from + 5 * DAY;
          const zone = zoneOf('Europe/Oslo')!;
          const wanted: number[] = [];
          for (let t = from; t < to; t += interval * MINUTE) {
            const local = new Date(zone.wallAt(t));
            const weekday = ['SU', 'MO', 'TU', 'WE', 'TH', 'FR', 'SA'][local.getUTCDay()]!;
            if (hours && !hours.includes(local.getUTCHours())) continue;
            if (minutes && !minutes.includes(local.getUTCMinutes())) continue;
            if (days && !days.includes(weekday)) continue;
            wanted.push(t);
          }
          expect(expand(rrule, dtstart, new Date(from).toISOString(), new Date(to).toISOString())).toEqual(
            texts(wanted),
          );
        },
      ),
    );
  });

  test('any window is the part of a greater one', () => {
    const rules = [
      'FREQ=HOURLY;INTERVAL=5',
      'FREQ=HOURLY;BYMINUTE=5,50',
      'FREQ=DAILY;BYHOUR=2,3;BYMINUTE=30',
      'FREQ=WEEKLY;INTERVAL=2;BYDAY=SU,MO',
      'FREQ=MONTHLY;BYDAY=-1SU;BYHOUR=2',
    ];
    fc.assert(
      fc.property(fc.constantFrom(...rules), fc.nat(500), fc.nat(60), (rrule, skip, length) => {
        const dtstart = '2031-01-05T02:20:00';
        const all = (from: number, to: number) => {
          const runs = expandRecurrence({ rrule, dtstart, tz: 'Europe/Oslo', from, to });
          return runs.ok ? runs.value : [];
        };
        const from = at('2031-01-01T00:00:00Z') + skip * DAY;
        const to = from + length * DAY;
        const whole = all(at('2031-01-01T00:00:00Z'), at('2033-01-01T00:00:00Z'));
        expect(all(from, to)).toEqual(whole.filter((run) => run >= from && run < to));
      }),
    );
  });
});

describe('refusals', () => {
  test.each([
    ['FREQ', 'rrule-syntax'],
    ['FREQ=DAILY;', 'rrule-syntax'],
    ['FREQ=DAILY;FREQ=DAILY', 'rrule-duplicate-part'],
    ['FREQ=SECONDLY', 'rrule-freq-unsupported'],
    ['FREQ=DAILY;INTERVAL=0', 'rrule-value'],
    ['FREQ=DAILY;BYHOUR=24', 'rrule-value'],
    ['FREQ=MONTHLY;BYDAY=0MO', 'rrule-value'],
    ['FREQ=DAILY;UNTIL=20310501', 'rrule-until-not-utc'],
    ['FREQ=DAILY;UNTIL=20310230T000000Z', 'rrule-value'],
    ['FREQ=DAILY;BYSECOND=1', 'rrule-part-unsupported'],
    ['FREQ=DAILY;EVERY=2', 'rrule-part-unknown'],
    ['INTERVAL=2', 'rrule-freq-missing'],
    ['FREQ=DAILY;COUNT=2;UNTIL=20310501T000000Z', 'rrule-count-and-until'],
    ['FREQ=WEEKLY;BYDAY=2MO', 'rrule-ordinal-day'],
    ['FREQ=WEEKLY;BYMONTHDAY=1', 'rrule-monthday-in-weekly'],
    ['FREQ=HOURLY;BYSETPOS=1', 'rrule-setpos-subdaily'],
    ['FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30', 'rrule-never-fires'],
    // The first that offends is said.
    ['BYHOUR=99;FREQ=NEVER', 'rrule-value'],
    ['COUNT=1;UNTIL=20310501T000000Z;BYMONTHDAY=1', 'rrule-freq-missing'],
  ])('%s is refused: %s', (rrule, reason) => expect(refusal(rrule)).toBe(reason));

  test('a zone that is none, and a start that is no moment', () => {
    expect(refusal('FREQ=DAILY', { tz: 'Europe/Skarholt' })).toBe('schedule-zone-unknown');
    expect(refusal('FREQ=DAILY', { dtstart: '2031-02-30T00:00:00' })).toBe('schedule-start');
  });

  test('a rule may fire late; a grid that slips is warned of', () => {
    expect(
      validateRecurrence({ rrule: 'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=29', dtstart: '2033-03-01T00:00:00', tz: 'UTC' }),
    ).toMatchObject({
      ok: true,
      value: at('2036-02-29T00:00:00Z'),
    });
    const grid = validateRecurrence({
      rrule: 'FREQ=HOURLY;INTERVAL=5;BYHOUR=3',
      dtstart: '2031-01-01T03:00:00',
      tz: 'UTC',
    });
    expect(grid.ok && grid.warnings).toHaveLength(2);
  });
});
