import ICAL from 'ical.js';
import { refuse } from '@/core/schedule/refusal';
import { parseRule, parseWall } from '@/core/schedule/rule';
import type { Recurrence } from '@/core/schedule/recurrence';
import { zoneOf, type Zone } from '@/core/schedule/zone';
import { civilOf } from '@/core/units/date';
import { DAY, HOUR, MINUTE, SECOND, type Milliseconds } from '@/core/units/duration';
import { notParsed, parsed, type ParseFailure, type Parsed } from '@/core/units/parsed';
import { stopped } from '@/core/units/counted';

/** A schedule with the name it bears in a calendar. */
export interface CalendarEntry {
  uid: string;
  summary: string;
  recurrence: Recurrence;
}

/** Clock changes are told for so long: readers that know the zone by its name need none. */
const ZONE_TOLD = 10 * 366 * DAY;

/** Schedules as a calendar (RFC 5545), a VEVENT each, with the clock changes of the zones they go by. `stamp` is when it was written. */
export function writeCalendar(entries: readonly CalendarEntry[], stamp: Milliseconds): string {
  const calendar = new ICAL.Component('vcalendar');
  calendar.updatePropertyWithValue('version', '2.0');
  calendar.updatePropertyWithValue('prodid', '-//Trabes//Protection plans//EN');
  const since = new Map<string, Milliseconds>();
  for (const { recurrence } of entries) {
    const wall = wallOf(recurrence);
    since.set(recurrence.tz, Math.min(wall, since.get(recurrence.tz) ?? Infinity));
  }
  for (const [name, from] of since)
    if (name !== 'UTC') calendar.addSubcomponent(zoneComponent(knownZone(name), from - DAY));
  for (const entry of entries) calendar.addSubcomponent(eventOf(entry, stamp));
  return `${calendar.toString()}\r\n`;
}

/** Stretches of time as a calendar (RFC 5545), a VEVENT each. */
export function writeEvents(
  events: readonly { uid: string; summary: string; from: Milliseconds; to: Milliseconds }[],
  stamp: Milliseconds,
): string {
  const calendar = new ICAL.Component('vcalendar');
  calendar.updatePropertyWithValue('version', '2.0');
  calendar.updatePropertyWithValue('prodid', '-//Trabes//Changes//EN');
  for (const { uid, summary, from, to } of events) {
    const event = new ICAL.Component('vevent');
    event.addPropertyWithValue('dtstart', timeOf(from, true));
    event.addPropertyWithValue('dtend', timeOf(to, true));
    event.addPropertyWithValue('uid', uid);
    event.addPropertyWithValue('dtstamp', timeOf(stamp, true));
    event.addPropertyWithValue('summary', summary);
    calendar.addSubcomponent(event);
  }
  return `${calendar.toString()}\r\n`;
}

/** @throws Error for a start that is none: schedules are read before they are kept. */
function wallOf({ dtstart }: Recurrence): Milliseconds {
  const wall = parseWall(dtstart);
  if (!wall.ok) throw new Error(wall.message);
  return wall.value;
}

function knownZone(name: string): Zone {
  const zone = zoneOf(name);
  if (!zone) throw new Error(`No time zone ${name}.`);
  return zone;
}

function eventOf({ uid, summary, recurrence }: CalendarEntry, stamp: Milliseconds): ICAL.Component {
  const { rrule, tz, exdates = [] } = recurrence;
  const event = new ICAL.Component('vevent');
  const start = event.addPropertyWithValue('dtstart', timeOf(wallOf(recurrence), tz === 'UTC'));
  if (tz !== 'UTC') start.setParameter('tzid', tz);
  event.addPropertyWithValue('rrule', ICAL.Recur.fromString(rrule));
  for (const at of exdates) event.addPropertyWithValue('exdate', timeOf(at, true));
  event.addPropertyWithValue('uid', uid);
  event.addPropertyWithValue('dtstamp', timeOf(stamp, true));
  event.addPropertyWithValue('summary', summary);
  return event;
}

/** A wall time, or with `utc` an instant, as the library holds it. */
function timeOf(wall: Milliseconds, utc = false): ICAL.Time {
  const { year, month, day } = civilOf(Math.floor(wall / DAY));
  const rest = wall - Math.floor(wall / DAY) * DAY;
  return new ICAL.Time(
    {
      year,
      month,
      day,
      hour: Math.floor(rest / HOUR),
      minute: Math.floor((rest % HOUR) / MINUTE),
      second: Math.floor((rest % MINUTE) / SECOND),
      isDate: false,
    },
    utc ? ICAL.Timezone.utcTimezone : ICAL.Timezone.localTimezone,
  );
}

const wallFrom = ({ year, month, day, hour, minute, second }: ICAL.Time): Milliseconds =>
  Date.UTC(year, month - 1, day, hour, minute, second);

const offsetText = (offset: Milliseconds): ICAL.UtcOffset => ICAL.UtcOffset.fromSeconds(offset / SECOND);

/** A zone's clock from an instant on: the offset in force there, and each change after it. */
function zoneComponent(zone: Zone, from: Milliseconds): ICAL.Component {
  const component = new ICAL.Component('vtimezone');
  component.updatePropertyWithValue('tzid', zone.name);
  const told = new Map<string, ICAL.Component>();
  const tell = (at: Milliseconds, before: Milliseconds, after: Milliseconds) => {
    const key = `${before} ${after}`;
    const known = told.get(key);
    if (known) return void known.addPropertyWithValue('rdate', timeOf(at + before));
    const part = new ICAL.Component(after > before ? 'daylight' : 'standard');
    part.addPropertyWithValue('dtstart', timeOf(at + before));
    part.addPropertyWithValue('tzoffsetfrom', offsetText(before));
    part.addPropertyWithValue('tzoffsetto', offsetText(after));
    told.set(key, part);
    component.addSubcomponent(part);
  };
  const first = zone.offsetAt(from);
  tell(from, first, first);
  for (let at = zone.changeAfter(from); at < from + ZONE_TOLD; at = zone.changeAfter(at))
    tell(at, zone.offsetAt(at - 1), zone.offsetAt(at));
  return component;
}

/**
 * Reads the schedules of a calendar, an event with a recurrence each; events without one are passed over. Zones are known by their names, not by
 * what the file says of them. Reasons: calendar-unreadable, calendar-empty, calendar-floating, calendar-several-rules, and those of a rule, a
 * start and a zone, with the event's name before them.
 */
export function readCalendar(text: string): Parsed<CalendarEntry[]> {
  let calendar: ICAL.Component;
  try {
    calendar = new ICAL.Component(ICAL.parse(text) as unknown[]);
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    return notParsed('calendar-unreadable', `This is no calendar: ${stopped(why)}`);
  }
  const entries: CalendarEntry[] = [];
  for (const event of calendar.getAllSubcomponents('vevent')) {
    const rules = event.getAllProperties('rrule');
    if (rules.length === 0) continue;
    const entry = entryOf(event, rules, entries.length + 1);
    if (!entry.ok) return entry;
    entries.push(entry.value);
  }
  return entries.length > 0 ? parsed(entries) : notParsed('calendar-empty', 'The calendar holds no event that recurs.');
}

function entryOf(event: ICAL.Component, rules: readonly ICAL.Property[], number: number): Parsed<CalendarEntry> {
  const textOf = (name: string): string => {
    const value = event.getFirstPropertyValue(name);
    return typeof value === 'string' ? value : '';
  };
  const summary = textOf('summary') || `Schedule ${number}`;
  const said = (failure: ParseFailure): ParseFailure => ({ ...failure, message: `${summary}: ${failure.message}` });
  if (rules.length > 1)
    return said(notParsed('calendar-several-rules', 'it has several rules. Write an event for each.'));
  const start = event.getFirstProperty('dtstart');
  const time = start?.getFirstValue();
  if (!start || !(time instanceof ICAL.Time) || time.isDate)
    return said(refuse('schedule-start', String(time ?? 'Nothing')));
  const named = start.getFirstParameter('tzid');
  const tz = named || (time.zone === ICAL.Timezone.utcTimezone ? 'UTC' : '');
  if (tz === '')
    return said(notParsed('calendar-floating', 'its start names no time zone. Say whose clock it goes by.'));
  const zone = zoneOf(tz);
  if (!zone) return said(refuse('schedule-zone-unknown', tz));
  const rrule = String(rules[0]!.getFirstValue());
  const rule = parseRule(rrule);
  if (!rule.ok) return said(rule);
  const exdates = event.getAllProperties('exdate').flatMap((property) => {
    const own = property.getFirstParameter('tzid');
    const at = (own && zoneOf(own)) || zone;
    return property
      .getValues()
      .filter((value) => value instanceof ICAL.Time)
      .flatMap((value) =>
        value.zone === ICAL.Timezone.utcTimezone ? wallFrom(value) : (at.instantOf(wallFrom(value)) ?? []),
      );
  });
  return parsed({
    uid: textOf('uid') || `schedule-${number}`,
    summary,
    recurrence: {
      rrule,
      dtstart: new Date(wallFrom(time)).toISOString().slice(0, 19),
      tz,
      ...(exdates.length > 0 ? { exdates } : {}),
    },
  });
}
