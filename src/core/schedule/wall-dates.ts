import { civilOf, daysOf } from '../units/date';
import type { Rule, RuleDay } from './rule';

// Days are counted since 1970-01-01, which was a Thursday.

/** Monday is 0. */
export const weekdayOf = (day: number): number => (((day + 3) % 7) + 7) % 7;

/** The first day of the week in which a day lies. */
export const weekStartOf = (day: number, weekStart: number): number => day - ((weekdayOf(day) - weekStart + 7) % 7);

const monthLength = (year: number, month: number): number =>
  month === 12 ? 31 : daysOf(year, month + 1, 1) - daysOf(year, month, 1);

const span = (from: number, length: number): number[] => Array.from({ length }, (_, k) => from + k);

interface Month {
  year: number;
  month: number;
  first: number;
  length: number;
}

const monthOf = (index: number): Month => {
  const year = Math.floor(index / 12);
  const month = index - year * 12 + 1;
  return { year, month, first: daysOf(year, month, 1), length: monthLength(year, month) };
};

/** A day of the month, from the end if negative; none where the month is shorter: it is never clamped. */
function dayIn({ first, length }: Month, day: number): number[] {
  const at = day > 0 ? day : length + 1 + day;
  return at >= 1 && at <= length ? [first + at - 1] : [];
}

/** Which days of a run of days fall on the weekdays; ordinals count within the run. */
function weekdaysIn(first: number, length: number, days: readonly RuleDay[]): number[] {
  return days.flatMap(({ day, ordinal }) => {
    const one = first + ((day - weekdayOf(first) + 7) % 7);
    const all = span(0, Math.max(0, Math.ceil((first + length - one) / 7))).map((k) => one + 7 * k);
    if (ordinal === null) return all;
    const at = ordinal > 0 ? ordinal - 1 : all.length + ordinal;
    return at >= 0 && at < all.length ? [all[at]!] : [];
  });
}

const both = (a: number[], b: number[]): number[] => a.filter((day) => b.includes(day));

/** Days of one month: BYDAY and BYMONTHDAY must both hold; without either the day of the start. */
function datesOfMonth(rule: Rule, month: Month, startDay: number): number[] {
  const { days, monthDays } = rule;
  const byDate = monthDays?.flatMap((day) => dayIn(month, day));
  const byDay = days && weekdaysIn(month.first, month.length, days);
  if (byDate && byDay) return both(byDate, byDay);
  return byDate ?? byDay ?? dayIn(month, startDay);
}

function datesOfYear(rule: Rule, year: number, start: { month: number; day: number }): number[] {
  const { days, monthDays, months } = rule;
  const of = (list: readonly number[]) =>
    list.flatMap((month) => datesOfMonth(rule, monthOf(year * 12 + month - 1), start.day));
  if (months) return of(months);
  const first = daysOf(year, 1, 1);
  const byDay = days && weekdaysIn(first, daysOf(year + 1, 1, 1) - first, days);
  if (!monthDays) return byDay ?? of([start.month]);
  const byDate = span(0, 12).flatMap((k) => monthDays.flatMap((day) => dayIn(monthOf(year * 12 + k), day)));
  return byDay ? both(byDate, byDay) : byDate;
}

/** Whether the months, dates and weekdays of a rule let a day through. */
export function fitsDay({ months, monthDays, days }: Rule, day: number): boolean {
  if (!months && !monthDays && !days) return true;
  const { year, month, day: date } = civilOf(day);
  if (months && !months.includes(month)) return false;
  if (days && !days.some((one) => one.day === weekdayOf(day))) return false;
  return !monthDays || monthDays.includes(date) || monthDays.includes(date - monthLength(year, month) - 1);
}

/** One period of a rule by the calendar: where it begins, and its dates. */
export interface Period {
  first: number;
  dates: number[];
}

/** The k-th period of a rule DAILY or longer that starts on a day, its dates in order, each once (protect.md A 1). */
export function periodOf(rule: Rule, startDay: number, k: number): Period {
  const step = k * rule.interval;
  const start = civilOf(startDay);
  if (rule.freq === 'DAILY')
    return { first: startDay + step, dates: [startDay + step].filter((day) => fitsDay(rule, day)) };
  if (rule.freq === 'WEEKLY') {
    const first = weekStartOf(startDay, rule.weekStart) + 7 * step;
    const week = span(first, 7).filter((day) => rule.days || weekdayOf(day) === weekdayOf(startDay));
    return { first, dates: week.filter((day) => fitsDay(rule, day)) };
  }
  if (rule.freq === 'MONTHLY') {
    const month = monthOf(start.year * 12 + start.month - 1 + step);
    const fits = !rule.months || rule.months.includes(month.month);
    return { first: month.first, dates: fits ? sorted(datesOfMonth(rule, month, start.day)) : [] };
  }
  const year = start.year + step;
  return { first: daysOf(year, 1, 1), dates: sorted(datesOfYear(rule, year, start)) };
}

const sorted = (days: number[]): number[] => [...new Set(days)].sort((a, b) => a - b);

/** The last period that begins on or before a day, by counting from the start; never below 0. */
export function periodBefore(rule: Rule, startDay: number, day: number): number {
  const start = civilOf(startDay);
  const there = civilOf(day);
  const passed = {
    DAILY: day - startDay,
    WEEKLY: Math.floor((day - weekStartOf(startDay, rule.weekStart)) / 7),
    MONTHLY: (there.year - start.year) * 12 + there.month - start.month,
    YEARLY: there.year - start.year,
  }[rule.freq as 'DAILY' | 'WEEKLY' | 'MONTHLY' | 'YEARLY'];
  return Math.max(0, Math.floor(passed / rule.interval));
}
