'use client';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { formatDuration } from '@/core/units/duration';
import type { ChangeView } from '@/core/change/record';
import { api } from '../api/client';
import { changeStateWords } from '../changes/words';
import { usePlace } from './place';
import { isTyping } from './keys';

const FIGURES = 3;
const SQUARES = 8;

/** The change under preparation, or the one at work. */
export function Tray() {
  const { open } = usePlace();
  const tray = useQuery({ queryKey: ['tray'], queryFn: api.tray });
  const putAway = useMutation({ mutationFn: () => api.setTray(null) });
  const change = tray.data?.change ?? null;

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'r' || event.ctrlKey || event.metaKey || !change || isTyping(event.target)) return;
      open('change', { id: change.id });
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [change, open]);

  return (
    <footer
      aria-label="Tray"
      className="flex items-center gap-3.5 overflow-hidden border-t-[1.5px] border-ink bg-ground px-3 whitespace-nowrap"
    >
      {change ? (
        <Contents
          change={change}
          onReview={() => open('change', { id: change.id })}
          onPutAway={() => putAway.mutate()}
        />
      ) : (
        <span className="text-ink2">No draft. Anything you add waits here until you review it.</span>
      )}
    </footer>
  );
}

function Contents({
  change,
  onReview,
  onPutAway,
}: {
  change: ChangeView;
  onReview: () => void;
  onPutAway: () => void;
}) {
  const { preview, steps } = change;
  const squares =
    change.state === 'draft' ? (preview?.steps ?? []).map(() => 'waiting') : steps.map((step) => step.state);
  const refusal = change.problem ?? preview?.refusals[0];
  return (
    <>
      <span className="caps">{changeStateWords[change.state]}</span>
      <em className="max-w-[220px] overflow-hidden font-[640] text-ellipsis">{change.title}</em>
      <span
        className="flex items-center"
        role="img"
        aria-label={`${squares.length} steps, ${squares.filter((state) => state === 'done').length} done`}
      >
        {squares.slice(0, SQUARES).map((state, k) => (
          <span key={k} className="step-square" data-state={state}>
            {k + 1}
          </span>
        ))}
        {squares.length > SQUARES && <span className="narrow pl-1.5">+{squares.length - SQUARES}</span>}
      </span>
      {refusal ? (
        <span className="overflow-hidden text-ellipsis text-red">
          {refusal.message} {refusal.mend}
        </span>
      ) : (
        <span className="num flex items-baseline gap-4 overflow-hidden">
          {preview?.figures.slice(0, FIGURES).map((figure) => (
            <span key={`${figure.subject.name} ${figure.label}`}>
              {figure.subject.name === 'Estate'
                ? figure.label.toLowerCase()
                : `${figure.subject.name} ${figure.label.toLowerCase()}`}{' '}
              {figure.before ?? '–'} → <b className="font-[640]">{figure.after ?? '–'}</b>
            </span>
          ))}
        </span>
      )}
      <span className="flex-1" />
      {change.state === 'draft' && preview && !refusal && (
        <span className="num text-ink2">
          {preview.steps.length} {preview.steps.length === 1 ? 'step' : 'steps'}, {formatDuration(preview.takes)}.{' '}
          {preview.destroys.length > 0 || preview.steps.some(({ back }) => back)
            ? 'Not all can be undone.'
            : 'Each can be undone.'}
        </span>
      )}
      <button type="button" className="verb" onClick={onPutAway}>
        Put away
      </button>
      <button type="button" className="btn solid" onClick={onReview}>
        {change.state === 'draft' ? 'Review' : 'Look'}
      </button>
    </>
  );
}
