import { calls, severities, type Severity } from './finding';
import type { MutedFinding } from './engine';

/** Which findings somebody wants to be told. */
export interface FindingsAsked {
  /** Only those with these words in what they say, their check or their subject; empty for all. */
  words: string;
  /** Muted ones too. */
  muted: boolean;
  /** At most so many of one check, and so many that hang on one cause; Infinity for all there are. */
  each: number;
}

/** Findings of one check that are not told. */
export interface MoreFindings {
  check: string;
  severity: Severity;
  count: number;
}

export interface FindingsTold {
  /** The worst first. Where some are left out and without words, what hangs on a cause comes behind, for causes that are told. */
  items: MutedFinding[];
  more: MoreFindings[];
  /** Of those asked for: to act on, to know, that hang on a cause. Of all: muted. */
  counts: { act: number; know: number; hang: number; muted: number };
  /** Of those asked for that do not hang on another. */
  bySeverity: Record<Severity, number>;
  /** How many hang on a cause that is told, by its id. */
  hanging: Record<string, number>;
  /** Checks that found nothing. */
  quiet: string[];
}

/** What is told of findings, however many there are: some of each check, and how many more. */
export function findingsTold(
  found: readonly MutedFinding[],
  checks: readonly { id: string }[],
  { words, muted, each }: FindingsAsked,
): FindingsTold {
  const wanted = words.trim().toLowerCase();
  const asked = found.filter(
    (one) =>
      (muted || one.muted === null) &&
      (wanted === '' || `${one.says} ${one.check} ${one.subject.name}`.toLowerCase().includes(wanted)),
  );
  // Causes come first: what hangs on one is folded under it, unless it is looked for by words.
  const first = wanted === '' ? asked.filter(({ because }) => because === null) : asked;
  const told = new Map<string, number>();
  const more = new Map<string, MoreFindings>();
  const items = first.filter(({ check, severity }) => {
    const count = told.get(check) ?? 0;
    if (count < each) return told.set(check, count + 1);
    const rest = more.get(check);
    if (rest) rest.count += 1;
    else more.set(check, { check, severity, count: 1 });
    return false;
  });
  const causes = new Set(items.map(({ subject }) => subject.id));
  const hanging: Record<string, number> = {};
  if (wanted === '')
    for (const one of asked) {
      const cause = one.because?.id;
      if (cause === undefined || !causes.has(cause)) continue;
      const count = (hanging[cause] = (hanging[cause] ?? 0) + 1);
      if (count <= each) items.push(one);
    }
  const of = (wants: (one: MutedFinding) => boolean) => asked.filter(wants).length;
  const [act, hang] = [of(calls), of(({ because }) => because !== null)];
  const loud = new Set(found.map(({ check }) => check));
  return {
    // Where nothing is left out they stay in their order.
    items: each === Infinity ? asked : items,
    more: [...more.values()],
    counts: {
      act,
      hang,
      know: asked.length - act - hang,
      muted: found.filter((one) => one.muted !== null).length,
    },
    bySeverity: Object.fromEntries(
      severities.map((severity) => [severity, first.filter((one) => one.severity === severity).length]),
    ) as Record<Severity, number>,
    hanging,
    quiet: checks.filter(({ id }) => !loud.has(id)).map(({ id }) => id),
  };
}
