import { answersHosts, type SiteResult } from '@/core/stretch/decide';

const HATCH = 'stretch-hatch';

/** Filled by slanting lines: what is on its way. One for all marks of a page. */
export function MarkPatterns() {
  return (
    <svg width="0" height="0" className="absolute" aria-hidden="true">
      <defs>
        <pattern id={HATCH} width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="1.3" height="4" fill="currentColor" />
        </pattern>
      </defs>
    </svg>
  );
}

/** One site: a filled block serves, an empty one is silent, one that fills is refreshed, a broken line is down. */
function SiteMark({ state, x }: { state: SiteResult; x: number }) {
  if (state === 'DOWN')
    return <path d={`M${x + 1} 10.5h4M${x + 9} 10.5h4M${x + 5} 10l4-8`} stroke="currentColor" fill="none" />;
  if (answersHosts(state)) return <rect x={x} y="0" width="14" height="11" fill="currentColor" />;
  return (
    <>
      <rect x={x + 0.5} y="0.5" width="13" height="10" fill="none" stroke="currentColor" />
      {state === 'STALE' && <rect x={x} y="5.5" width="14" height="5.5" fill={`url(#${HATCH})`} />}
    </>
  );
}

/** Both sites beside each other. */
export function PairMark({ states, label }: { states: Record<'A' | 'B', SiteResult>; label: string }) {
  return (
    <svg width="32" height="11" viewBox="0 0 32 11" role="img" aria-label={label}>
      <title>{label}</title>
      <SiteMark state={states.A} x={0} />
      <SiteMark state={states.B} x={18} />
    </svg>
  );
}

/** What the marks stand for. */
export function MarkLegend() {
  const one = (state: SiteResult, word: string) => (
    <span className="inline-flex items-center gap-1.5">
      <svg width="14" height="11" viewBox="0 0 14 11" aria-hidden="true">
        <SiteMark state={state} x={0} />
      </svg>
      {word}
    </span>
  );
  return (
    <p className="narrow flex flex-wrap gap-x-4 pt-2 text-ink2">
      {one('BOTH', 'serves')}
      {one('HOLD', 'silent')}
      {one('STALE', 'refreshed')}
      {one('DOWN', 'down')}
      <span className="inline-flex items-center gap-1.5">
        <span
          className="inline-block h-[11px] w-[14px] outline-[1.5px] outline-red outline-dashed"
          aria-hidden="true"
        />
        nobody goes on
      </span>
      <span>seconds: pause until a site goes on</span>
    </p>
  );
}
