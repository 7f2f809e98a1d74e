'use client';
import { useQuery } from '@tanstack/react-query';
import type { PointRow, PointView, SubjectView } from '@/core/protect/subject-view';
import { formatBytes } from '@/core/units/bytes';
import { momentText } from '@/core/units/date';
import { formatDuration } from '@/core/units/duration';
import { api } from '../api/client';
import { useParam, usePlace } from '../shell/place';

/** One restore point: what going back would drop and bring, its files against those of now, and its verbs. */
export function PointPanel({ subject, point }: { subject: SubjectView; point: PointRow }) {
  const { open, go } = usePlace();
  const [, setCut] = useParam('cut');
  const asked = useQuery({
    queryKey: ['protection', subject.id, point.cut],
    queryFn: () => api.restorePoint(subject.id, point.cut),
  });
  const { named, now } = subject;
  const copies = { ...named, copies: [point.name] };
  const locked = point.lockedUntil !== null && point.lockedUntil > now;
  const volume = subject.volumes[0];
  return (
    <section aria-label="Restore point" className="scroller min-h-0 px-3 py-2 @max-[1080px]:hidden">
      <p className="caps">Restore point</p>
      <h2 className="sheet-title">
        <span className="swipe">{momentText(point.at)}</span>
      </h2>
      <p className="narrow pt-1 text-ink2">
        {point.name}, {point.label === 'application' ? 'applications were paused' : 'crash-consistent'}
        {point.reason ? `: ${point.reason}` : ''}. {point.notes}
      </p>
      {asked.data && (
        <p className="pt-1">
          Going back drops <b className="num font-[640]">{formatBytes(asked.data.dropped, 'used')}</b> of{' '}
          {formatDuration(now - point.at)} and brings{' '}
          <b className="num font-[640]">{formatBytes(asked.data.restored, 'used')}</b> back.
        </p>
      )}
      <p className="flex flex-wrap gap-x-4 pt-1.5">
        <button type="button" className="verb" onClick={() => open('copy.go-back', { ...named, copy: point.name })}>
          Go back
        </button>
        <button type="button" className="verb" onClick={() => open('copy.show', { ...named, copy: point.name })}>
          Show to a host
        </button>
        <button
          type="button"
          className="verb"
          onClick={() => open('snapshot.validate', { ...named, copy: point.name })}
        >
          Prove
        </button>
        <button type="button" className="verb" onClick={() => open('snapshot.clone', { ...named, copy: point.name })}>
          Clone
        </button>
        <button type="button" className="verb" onClick={() => open('snapshot.lock', copies)}>
          {locked ? 'Lock longer' : 'Lock'}
        </button>
        <button type="button" className="verb" onClick={() => open('snapshot.configure', copies)}>
          Hold
        </button>
        <button type="button" className="verb" onClick={() => open('snapshot.delete', copies)}>
          Delete
        </button>
        {volume && (
          <button
            type="button"
            className="verb"
            onClick={() => go({ selection: { kind: 'volume', id: volume.id } }, '/')}
          >
            In the Span
          </button>
        )}
        <button type="button" className="verb" onClick={() => setCut('')}>
          Close
        </button>
      </p>
      {asked.error && <p className="refusal mt-2">{asked.error.message}</p>}
      {asked.data && <Files point={asked.data} />}
    </section>
  );
}

const words = { same: 'the same now', other: 'other now', gone: 'gone now' } as const;

function Files({ point }: { point: PointView }) {
  if (point.files.length + point.newer.length === 0)
    return <p className="narrow pt-2 text-ink2">No named files stand on it.</p>;
  return (
    <>
      <h3 className="caps pt-3">Files of that moment</h3>
      <ul>
        {point.files.map((file) => (
          <li
            key={`${file.volume} ${file.path}`}
            className="flex items-baseline gap-2 border-b border-rule-faint py-0.5"
          >
            <span className="min-w-0 flex-1 truncate" title={`${file.volume}: ${file.path}`}>
              {file.path}
            </span>
            <span className="num narrow text-ink2">{formatBytes(file.size, 'used')}</span>
            <span className={`narrow w-[78px] text-right ${file.now === 'same' ? 'text-ink2' : 'font-[640]'}`}>
              {words[file.now]}
            </span>
          </li>
        ))}
        {point.newer.map((file) => (
          <li
            key={`${file.volume} ${file.path}`}
            className="flex items-baseline gap-2 border-b border-rule-faint py-0.5 text-ink2 italic"
          >
            <span className="min-w-0 flex-1 truncate">{file.path}</span>
            <span className="narrow">came since, would go</span>
          </li>
        ))}
      </ul>
    </>
  );
}
