import { parseEvery } from '../schedule/every';
import { nextAfter } from '../schedule/recurrence';
import { refuse } from '../schedule/refusal';
import { zoneOf } from '../schedule/zone';
import { parseWall } from '../schedule/rule';
import { parseDate, timeText } from '../units/date';
import { DAY, type Milliseconds } from '../units/duration';
import { notParsed, parsed, type Parsed } from '../units/parsed';

/**
 * When a change begins that is to begin on a day or with a rhythm, by the clock of a zone: `2031-05-02`, `2031-05-02 22:30`, `SU 02:00`,
 * `month 1 22:00`, or a rule of RFC 5545 (protect.md A). Null for an empty text: as soon as it may. Reasons: those of a date, of a rhythm, of
 * a rule, schedule-zone-unknown, rrule-never-fires, begins-behind.
 */
export function beginsAt(text: string, zone: string, now: Milliseconds): Parsed<Milliseconds | null> {
  const said = text.trim();
  const clock = zoneOf(zone);
  if (!clock) return refuse('schedule-zone-unknown', zone);
  if (said === '') return parsed(null);
  const day = /^(\d{4}-\d\d-\d\d)(?:[ T](\d{1,2}:\d\d))?$/.exec(said);
  if (day) {
    const [, date, time] = day;
    const wall = time ? parseWall(`${date}T${time.padStart(5, '0')}:00`) : parseDate(date!);
    if (!wall.ok) return wall;
    const at = clock.instantOf(wall.value)!;
    if (at + (time ? 0 : DAY) <= now)
      return notParsed('begins-behind', `${said} lies behind: it is ${timeText(clock.wallAt(now))} there.`);
    return parsed(at);
  }
  const every = parseEvery(said, clock.wallAt(now));
  if (!every.ok) return every;
  return nextAfter({ rrule: every.value.rule, dtstart: every.value.start, tz: zone }, now);
}
