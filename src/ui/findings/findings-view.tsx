'use client';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import Link from 'next/link';
import { useState } from 'react';
import type { MutedFinding } from '@/core/check/engine';
import { findingKey, severities, type Severity } from '@/core/check/finding';
import type { FindingsTold, MoreFindings } from '@/core/check/told';
import type { Post } from '@/core/span/model';
import { api } from '../api/client';
import { StatePost } from '../look/post';
import { labTime } from '../shell/clock-context';
import { useParam, usePlace } from '../shell/place';

const posts: Record<Severity, Post> = { error: 'broken', warning: 'leans', note: 'stands' };
const words: Record<Severity, string> = {
  error: 'Data or service at risk',
  warning: 'To plan or to put right',
  note: 'To know',
};

/** At most so many of each check are shown at first. */
const EACH = 100;

/** What the checks found, the worst first; each with what would mend it, prepared. */
export function FindingsView() {
  const [filter, setFilter] = useParam('filter');
  const [muted, setMuted] = useState(false);
  const [each, setEach] = useState(EACH);
  const words = filter.trim();
  const findings = useQuery({
    queryKey: ['findings', words, muted, each],
    queryFn: () => api.findings({ words, muted, each }),
    placeholderData: keepPreviousData,
  });
  const data = findings.data;
  const items = data?.items ?? [];
  // Causes come first: what hangs on one is folded under it, unless it is looked for by words.
  const shown = words === '' ? items.filter((one) => one.because === null) : items;
  const hanging = (cause: MutedFinding) =>
    words === '' ? items.filter((one) => one.because?.id === cause.subject.id) : [];
  const hidden = data?.counts.muted ?? 0;
  const titles = new Map(data?.checks.map(({ id, title }) => [id, title]));
  return (
    <main className="flex min-h-0 flex-col bg-paper">
      <div className="flex flex-none items-center gap-4 border-b border-rule px-3 py-1">
        <h1 className="font-[640]">Findings</h1>
        <span className="text-ink2">{data && `${summary(data.counts)}; ${data.checks.length} checks`}</span>
        <span className="flex-1" />
        <input
          aria-label="Filter findings"
          className="field h-6! w-[190px]!"
          placeholder="Filter by words"
          value={filter}
          onChange={(event) => setFilter(event.target.value)}
        />
        <button
          type="button"
          className="verb"
          aria-pressed={muted}
          disabled={hidden === 0}
          onClick={() => setMuted(!muted)}
        >
          {muted ? 'Hide muted' : `Show ${hidden} muted`}
        </button>
        <a className="verb inline-flex items-center" href="/api/v1/findings?format=csv" download>
          CSV
        </a>
      </div>
      <div className="scroller min-h-0 flex-1 px-3 pb-4">
        {findings.error && (
          <p className="refusal mt-2">
            The findings were asked for. {findings.error.message}{' '}
            <button type="button" className="verb" onClick={() => void findings.refetch()}>
              Ask again
            </button>
          </p>
        )}
        {severities.map((severity) => (
          <Section
            key={severity}
            severity={severity}
            rows={shown.filter((one) => one.severity === severity)}
            count={data?.bySeverity[severity] ?? 0}
            hanging={hanging}
            hangingOn={data?.hanging ?? {}}
            more={(data?.more ?? []).filter((one) => one.severity === severity)}
            titleOf={(check) => titles.get(check) ?? check}
            onMore={() => setEach(each * 10)}
          />
        ))}
        {data && shown.length === 0 && (
          <p className="py-3 text-ink2">Nothing {words ? 'of that' : 'wrong'} is found.</p>
        )}
        {data && (
          <section aria-label="Quiet checks" className="pt-5">
            <h2 className="caps border-b border-rule pb-1">Nothing found by {data.quiet.length} checks</h2>
            <p className="narrow pt-1 text-ink2">
              {data.quiet.map((check) => (titles.get(check) ?? check).toLowerCase()).join(' · ')}
            </p>
          </section>
        )}
      </div>
    </main>
  );
}

/** What the numbers count: those to act on, as the bar above shows them, those to know, and those that go with a cause. */
function summary({ act, know, hang }: FindingsTold['counts']): string {
  return [
    `${act} to act on`,
    ...(know > 0 ? [`${know} to know`] : []),
    ...(hang > 0 ? [`${hang} that hang on a cause`] : []),
  ].join(', ');
}

function Section({
  severity,
  rows,
  count,
  hanging,
  hangingOn,
  more,
  titleOf,
  onMore,
}: {
  severity: Severity;
  rows: MutedFinding[];
  count: number;
  hanging: (cause: MutedFinding) => MutedFinding[];
  hangingOn: FindingsTold['hanging'];
  more: readonly MoreFindings[];
  titleOf: (check: string) => string;
  onMore: () => void;
}) {
  if (rows.length === 0) return null;
  return (
    <section aria-label={words[severity]} className="pt-3">
      <h2 className="caps flex items-center gap-2 border-b border-ink pb-1">
        <StatePost post={posts[severity]} />
        {words[severity]}, {count}
      </h2>
      <ul>
        {rows.map((one) => (
          <Cause key={findingKey(one)} finding={one} hanging={hanging(one)} count={hangingOn[one.subject.id] ?? 0} />
        ))}
        {more.map(({ check, count: left }) => (
          <li key={check} className="border-b border-rule-faint py-0.5 pl-[28px] text-ink2">
            and {left} more: {titleOf(check).toLowerCase()}{' '}
            <button type="button" className="verb" onClick={onMore}>
              Show more<span className="sr-only"> of {check}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** A finding, and folded under it those that would go with it. */
function Cause({
  finding,
  hanging,
  count,
}: {
  finding: MutedFinding;
  hanging: readonly MutedFinding[];
  count: number;
}) {
  const [unfolded, setUnfolded] = useState(false);
  return (
    <>
      <Row finding={finding} />
      {hanging.length > 0 && (
        <li className="border-b border-rule-faint pl-[28px]">
          <button type="button" className="verb" aria-expanded={unfolded} onClick={() => setUnfolded(!unfolded)}>
            {unfolded
              ? `Fold what hangs on ${finding.subject.name}`
              : `Show the ${count} that ${count === 1 ? 'hangs' : 'hang'} on ${finding.subject.name}`}
          </button>
          {unfolded && (
            <ul aria-label={`Hanging on ${finding.subject.name}`}>
              {hanging.map((one) => (
                <Row key={findingKey(one)} finding={one} hangs />
              ))}
              {count > hanging.length && <li className="text-ink2">and {count - hanging.length} more</li>}
            </ul>
          )}
        </li>
      )}
    </>
  );
}

/** Kinds that the Span can mark. */
const selectable = new Set(['array', 'drive', 'raidGroup', 'pool', 'volume', 'port', 'network', 'host']);

function Row({ finding, hangs = false }: { finding: MutedFinding; hangs?: boolean }) {
  const { open, sheet, given, openStep } = usePlace();
  const { subject, muted } = finding;
  // What goes with its cause wants no mend of its own: that would only spoil what was right.
  const mend = hangs ? null : finding.mend;
  const here = sheet === mend?.do && JSON.stringify(given) === JSON.stringify(mend?.params);
  return (
    <li
      className={`grid grid-cols-[16px_minmax(128px,15%)_minmax(0,1fr)_190px_72px] items-baseline gap-x-3 border-b border-rule-faint py-0.5 ${muted ? 'text-ink3' : ''} ${here ? 'bg-wash' : ''}`}
    >
      <span className="translate-y-[2px]">
        <StatePost post={posts[finding.severity]} />
      </span>
      {selectable.has(subject.kind) ? (
        <Link
          className="verb [overflow-wrap:anywhere]"
          href={`/?sel=${subject.kind}:${subject.id}`}
          title="Show it in the Span"
        >
          {subject.name}
        </Link>
      ) : (
        <span className="name [overflow-wrap:anywhere]">{subject.name}</span>
      )}
      <span>
        {finding.says}{' '}
        <span className="text-ink2">{hangs ? `Goes with ${finding.because?.name}.` : finding.advice}</span>
        {muted && (
          <span className="block italic">
            Muted until {labTime(muted.until - 1, false).slice(0, 10)}: {muted.reason}
          </span>
        )}
      </span>
      <span className="flex w-[190px] justify-end gap-3">
        {finding.trace && (
          <button type="button" className="verb text-ink2" onClick={() => open('trace', { ...finding.trace })}>
            Trace<span className="sr-only"> of {subject.name}</span>
          </button>
        )}
        {mend && (
          <button type="button" className="verb" onClick={() => openStep(mend)}>
            {mend.label}
            <span className="sr-only"> for {subject.name}</span>
          </button>
        )}
      </span>
      <span className="text-right">
        <button
          type="button"
          className="verb text-ink2"
          onClick={() => open(muted ? 'finding.unmute' : 'finding.mute', { check: finding.check, subject: subject.id })}
        >
          {muted ? 'Show again' : 'Mute'}
          <span className="sr-only">
            {' '}
            {finding.check} for {subject.name}
          </span>
        </button>
      </span>
    </li>
  );
}
