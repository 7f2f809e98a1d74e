import { notParsed, type ParseFailure } from '../units/parsed';

/** Why a schedule is refused: what a person reads, with `{}` for the text that offends (protect.md N). */
const words = {
  'rrule-syntax': '"{}" is not NAME=VALUE.',
  'rrule-freq-missing': 'Say how often: FREQ is missing.',
  'rrule-freq-unsupported': '{} is not offered; the finest step is MINUTELY.',
  'rrule-value': '{} is outside its range.',
  'rrule-count-and-until': 'Give a number of runs or an end, not both.',
  'rrule-until-not-utc': 'Write the end in UTC (…Z), otherwise it would move with the clock change.',
  'rrule-ordinal-day': '"Second Monday" makes sense per month or year only.',
  'rrule-monthday-in-weekly': 'A day of the month cannot limit a weekly rule.',
  'rrule-setpos-subdaily': 'BYSETPOS needs a day or longer.',
  'rrule-part-unsupported': '{} is not offered.',
  'rrule-part-unknown': '{} is unknown.',
  'rrule-duplicate-part': '{} is given twice.',
  'rrule-never-fires': 'This rule has no run in the next ten years.',
  'schedule-start': '{} is no local date and time. Write one such as 2031-05-02T22:00:00.',
  'schedule-zone-unknown': 'No time zone {}.',
  'schedule-catchup-policy': 'Choose skip, latest or all.',
} as const;

export type ScheduleRefusal = keyof typeof words;

export const refuse = (reason: ScheduleRefusal, text = ''): ParseFailure & { reason: ScheduleRefusal } => ({
  ...notParsed(reason, words[reason].replace('{}', text)),
  reason,
});
