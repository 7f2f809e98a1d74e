import { changed, type Effect } from '../estate/effects';
import { Overlay, type EstateView } from '../estate/estate';
import type { Milliseconds } from '../units/duration';
import { arrayAnswers } from '../volume/health';

/** Since when arrays say nothing, whose last controller goes with these effects; and that they speak again, whose first one is back. */
export function silences(view: EstateView, effects: readonly Effect[], now: Milliseconds): Effect[] {
  const touched = new Set(
    effects.flatMap(({ kind, before }) => (kind === 'controller' && before ? [before.array] : [])),
  );
  if (touched.size === 0) return [];
  const overlay = new Overlay(view);
  overlay.apply(effects);
  return [...touched].flatMap((id) => {
    const array = overlay.table('array').get(id)!;
    const answers = arrayAnswers(overlay, id);
    return answers === (array.silentSince === null)
      ? []
      : [changed('array', array, { silentSince: answers ? null : now })];
  });
}
