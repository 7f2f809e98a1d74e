import type { EstateView } from '../estate/estate';
import { draftList, draftText } from '../operation/draft';
import type { Choice, Draft } from '../operation/operation';
import { someOf } from '../units/counted';
import { timeText } from '../units/date';
import { formatDuration, type Milliseconds } from '../units/duration';
import { barsOf, clonesOf } from './prune';
import { draftProtected, pointsOf, type RestorePoint } from './subject';
import { lockedUntil } from '../copies/locked';

/** The restore points of what a draft names, the newest first, as choices. */
export function pointChoices(
  view: EstateView,
  draft: Draft,
  now: Milliseconds,
  unfit: (point: RestorePoint) => string | undefined = () => undefined,
): Choice[] {
  const subject = draftProtected(view, draft);
  if (!subject) return [];
  return pointsOf(view, subject)
    .reverse()
    .map((point) => {
      const why = unfit(point);
      return {
        value: point.name,
        label: `${point.name}, ${timeText(point.at)} UTC, ${formatDuration(Math.max(0, now - point.at))} ago`,
        ...(why ? { unfit: why } : {}),
      };
    });
}

/** The restore points that a draft chooses. */
export function draftPoints(view: EstateView, draft: Draft): RestorePoint[] {
  const subject = draftProtected(view, draft);
  if (!subject) return [];
  const names = new Set([...draftList(draft, 'copies'), draftText(draft, 'copy')]);
  return pointsOf(view, subject).filter((point) => names.has(point.name));
}

/** Why a point cannot be deleted, in a few words. */
export function barWords(view: EstateView, point: RestorePoint, now: Milliseconds): string | undefined {
  const until = lockedUntil(view, point.copies, now);
  if (until !== null) return `is immutable until ${timeText(until)}`;
  const held = point.copies.find((copy) => barsOf(view, copy, now).length > 0);
  if (!held) return undefined;
  return held.hold ? `is held: ${held.hold}` : `${someOf(clonesOf(view, held).map(({ name }) => name))} rest on it`;
}
