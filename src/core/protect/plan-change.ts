import { changed } from '../estate/effects';
import type { Plan } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { Inquiry } from '../operation/inquiry';
import { subjectOf } from '../operation/refusal';
import { counted, someOf } from '../units/counted';
import type { Milliseconds } from '../units/duration';
import { verdicts } from './prune';
import { pointsOf, subjectsOf } from './subject';

/** Copies that a plan keeps now and, were it as it would be, would delete at its next run; and those that its locks keep all the same. */
export function wouldDelete(
  view: EstateView,
  before: Plan,
  after: Plan,
  now: Milliseconds,
): { going: string[]; locked: string[] } {
  const going: string[] = [];
  const locked: string[] = [];
  for (const subject of subjectsOf(view, before)) {
    const points = pointsOf(view, subject);
    const then = new Set(verdicts(view, before, points, now).going.map((point) => point.cut));
    const verdict = verdicts(view, after, points, now);
    for (const point of verdict.going) if (!then.has(point.cut)) going.push(`${subject.name} ${point.name}`);
    for (const point of verdict.held) locked.push(`${subject.name} ${point.name}`);
  }
  return { going, locked };
}

/** What a change of a plan does to the copies that are there, in sentences. */
export function deletionNotes(view: EstateView, before: Plan, after: Plan, now: Milliseconds): string[] {
  const { going, locked } = wouldDelete(view, before, after, now);
  return [
    ...(going.length > 0
      ? [`Its next run would delete ${counted(going.length, 'copy', 'copies')} that it keeps now: ${someOf(going)}.`]
      : []),
    ...(locked.length > 0
      ? [
          `${counted(locked.length, 'copy', 'copies')} past their time stay, since they are locked or held: ${someOf(locked)}.`,
        ]
      : []),
  ];
}

/** Effects that leave a plan as it would be. */
export const planChanged = (before: Plan, fields: Partial<Plan>) => [changed('plan', before, fields)];

/** A schedule by its name, in any letters. */
export function askSchedule(asks: Inquiry, plan: Plan, name: string) {
  const found = plan.schedules.find((one) => one.name.toLowerCase() === name.trim().toLowerCase());
  if (!found)
    asks.refuse({
      code: 'schedule-unknown',
      field: 'schedule',
      subject: subjectOf('plan', plan),
      message: name.trim() === '' ? 'No schedule is named.' : `${plan.name} has no schedule named ${name}.`,
      mend: `Known are: ${plan.schedules.map((one) => one.name).join(', ') || 'none'}.`,
    });
  return found;
}
