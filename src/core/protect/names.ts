import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { lookUp } from '../operation/inquiry';
import { timeText } from '../units/date';
import type { Milliseconds } from '../units/duration';

/** What may stand in a pattern of names. */
export const nameParts = ['{date}', '{time}', '{plan}', '{schedule}', '{workload}'] as const;
export const USUAL_PATTERN = '{date}-{time}';

const plain = (text: string): string => text.trim().replace(/[^A-Za-z0-9._-]+/g, '-');

/** A copy's name by a pattern: `2031-04-14-0600`, in UTC as moments are shown everywhere, so that no hour comes twice. */
export function nameByPattern(
  pattern: string,
  at: Milliseconds,
  { plan = '', schedule = '', workload = '' } = {},
): string {
  const [date, time] = timeText(at).split(' ') as [string, string];
  const name = pattern
    .replaceAll('{date}', date)
    .replaceAll('{time}', time.replace(':', ''))
    .replaceAll('{plan}', plain(plan))
    .replaceAll('{schedule}', plain(schedule))
    .replaceAll('{workload}', plain(workload));
  return (
    plain(name)
      .slice(0, 58)
      .replace(/^[^A-Za-z0-9]+/, '') || 'copy'
  );
}

/** The name, or the first of `name-2`, `name-3` … that no copy of these volumes bears */
export function freeCopyName(view: EstateView, volumes: readonly Volume[], name: string): string {
  const taken = (one: string) => volumes.some((volume) => lookUp(view, 'snapshot', one, volume.id));
  for (let k = 1; ; k++) {
    const one = k === 1 ? name : `${name}-${k}`;
    if (!taken(one)) return one;
  }
}
