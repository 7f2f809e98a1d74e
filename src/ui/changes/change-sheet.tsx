'use client';
import { useIsMutating, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { ChangeView, StepState } from '@/core/change/record';
import { counted } from '@/core/units/counted';
import { formatDuration } from '@/core/units/duration';
import { api, type ApiRefusal } from '../api/client';
import { StatePost } from '../look/post';
import { RefusalLine } from '../sheet/refusal-line';
import { SheetFrame } from '../sheet/sheet-frame';
import { labTime } from '../shell/clock-context';
import { usePlace } from '../shell/place';
import { ApproveForm } from './approve-form';
import { Figures } from './figures';
import { ADDING, seenThrough } from './own-revisions';
import { AheadSteps } from './ahead-steps';
import { RunQuestion, RunTermsLines, SecondPerson } from './run-question';
import { UndoPreview } from './undo-preview';
import { stateOf } from './words';

type Verb = 'run' | 'undo' | 'retry' | 'cancel';

/** One change, whole: reviewed before it runs, watched while it runs, read and undone afterwards. */
export function ChangeSheet({ id }: { id: string }) {
  const change = useQuery({ queryKey: ['change', id], queryFn: () => api.change(id) });
  if (change.error)
    return (
      <SheetFrame title="Change">
        <p className="refusal m-4">{change.error.message}</p>
      </SheetFrame>
    );
  return change.data ? <Loaded change={change.data} /> : <SheetFrame title="Change">{null}</SheetFrame>;
}

function Loaded({ change }: { change: ChangeView }) {
  const { close, open } = usePlace();
  const client = useQueryClient();
  const draft = change.state === 'draft';
  // What somebody else does to the draft is told, and run only once it was seen.
  const [looked, setSeen] = useState(change.revision);
  const seen = seenThrough(change.id, looked);
  // What is on its way into the draft belongs to what is run.
  const adding = useIsMutating({ mutationKey: ADDING }) > 0;
  const unseen = draft ? change.revisions.filter(({ revision }) => revision > seen) : [];
  const told = useMutation<ChangeView, ApiRefusal, Verb>({
    mutationFn: (verb) => api.tell(draft ? { id: change.id, revision: seen } : change, verb),
    onSettled: () => client.invalidateQueries(),
  });
  const again = useMutation<ChangeView, ApiRefusal>({
    mutationFn: () => api.again(change.id),
    onSuccess: async (draft) => {
      await client.invalidateQueries();
      open('change', { id: draft.id });
    },
  });
  const discard = useMutation<void, ApiRefusal>({
    mutationFn: () => api.discard(change),
    onSuccess: () => {
      close();
      return client.invalidateQueries();
    },
  });
  const lay = useMutation({ mutationFn: () => api.setTray(change.id) });
  const [approving, setApproving] = useState(false);
  const withdraw = useMutation<ChangeView, ApiRefusal>({
    mutationFn: () => api.withdraw(change.id),
    onSettled: () => client.invalidateQueries(),
  });
  const refusals = change.problem ? [change.problem] : (change.preview?.refusals ?? []);
  return (
    <SheetFrame
      title={draft ? 'Review' : change.title}
      line={`${stateOf(change)}, from ${change.origin}`}
      foot={
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
          <Outcome change={change} error={told.error ?? again.error ?? discard.error ?? withdraw.error} />
          <span className="flex-1" />
          <a className="verb inline-flex items-center" href={`/api/v1/changes/${change.id}?format=yaml`} download>
            Save as a file
          </a>
          {(change.state === 'done' || change.state === 'stopped' || change.state === 'undone') && (
            <button type="button" className="verb" disabled={again.isPending} onClick={() => again.mutate()}>
              Lay again as a draft
            </button>
          )}
          {draft && (
            <>
              <button type="button" className="verb" onClick={() => discard.mutate()}>
                Discard
              </button>
              <button type="button" className="verb" onClick={() => lay.mutate()}>
                Lay in the tray
              </button>
              <button
                type="button"
                className="verb"
                disabled={(change.preview?.refusals.length ?? 1) > 0 || change.operations.length === 0}
                onClick={() => setApproving(true)}
              >
                Approve for later
              </button>
              <button
                type="button"
                data-first
                data-main
                title="Ctrl Enter"
                className="btn solid"
                disabled={
                  refusals.length > 0 || unseen.length > 0 || change.operations.length === 0 || told.isPending || adding
                }
                onClick={() => told.mutate('run')}
              >
                Run
              </button>
            </>
          )}
          {change.state === 'approved' && (
            <button type="button" className="btn" onClick={() => withdraw.mutate()}>
              Withdraw the approval
            </button>
          )}
          {(change.state === 'running' || change.state === 'undoing') && (
            <button type="button" className="btn" onClick={() => told.mutate('cancel')}>
              Stop
            </button>
          )}
          {(change.state === 'stopped' || change.state === 'stuck') && (
            <button type="button" className="btn solid" onClick={() => told.mutate('retry')}>
              Retry the rest
            </button>
          )}
          {(change.state === 'done' || change.state === 'stopped' || change.state === 'stuck') &&
            change.steps.some((step) => step.state === 'done') && (
              <button
                type="button"
                className="btn"
                disabled={!change.undo.possible || told.isPending}
                onClick={() => told.mutate('undo')}
              >
                Undo
              </button>
            )}
        </div>
      }
    >
      <div className="grid gap-1 px-4 pb-4">
        {unseen.length > 0 && (
          <div role="alert" className="refusal mt-2">
            Somebody changed this draft meanwhile.{' '}
            <span className="text-ink">{unseen.map(({ said }) => said).join(' ')}</span>
            <button type="button" className="verb ml-2 text-ink" onClick={() => setSeen(change.revision)}>
              I have seen it
            </button>
          </div>
        )}
        {draft && <Title key={change.title} change={change} onRevised={setSeen} />}
        {refusals.map((refusal, k) => (
          <RefusalLine key={k} refusal={refusal} />
        ))}
        <RunTermsLines change={change} />
        <RunQuestion change={change} />
        <SecondPerson change={change} />
        {draft && approving && <ApproveForm change={change} seen={seen} onDone={() => setApproving(false)} />}
        <h2 className="caps border-b border-ink pt-3 pb-1">Steps</h2>
        {draft ? (
          <DraftSteps change={change} onRevised={setSeen} />
        ) : change.state === 'approved' ? (
          <ApprovedSteps change={change} />
        ) : (
          <RunSteps change={change} />
        )}
        {change.preview && <Figures figures={change.preview.figures} />}
        {change.preview && change.preview.destroys.length > 0 && (
          <p className="refusal mt-2">
            Lost for good: {change.preview.destroys.join('; ')}.{' '}
            <span className="text-ink">These steps cannot be undone.</span>
          </p>
        )}
        {(change.state === 'done' || change.state === 'stopped') && <UndoPreview undo={change.undo} />}
        {change.log.length > 0 && (
          <>
            <h2 className="caps border-b border-ink pt-4 pb-1">Log</h2>
            <ol aria-label="Log">
              {change.log.map((row, k) => (
                <li key={k} className="flex gap-3 py-0.5">
                  <span className="mono flex-none pt-px text-ink2">{labTime(row.atLab)}</span>
                  <span className={row.level === 'problem' ? 'text-red' : ''}>{row.message}</span>
                </li>
              ))}
            </ol>
          </>
        )}
      </div>
    </SheetFrame>
  );
}

/** One sentence on where the change stands and what may be done. */
function Outcome({ change, error }: { change: ChangeView; error: ApiRefusal | null }) {
  if (error)
    return (
      <span role="alert" className="text-red">
        {error.message} {error.mend}
      </span>
    );
  if (change.preview) {
    const { steps, takes, destroys } = change.preview;
    return (
      <span className="text-ink2">
        {steps.length} {steps.length === 1 ? 'step' : 'steps'}, {formatDuration(takes)}.{' '}
        {destroys.length === 0 ? (steps.find(({ back }) => back)?.back ?? 'Each can be undone.') : ''}
      </span>
    );
  }
  if (change.state === 'approved')
    return (
      <span className="text-ink2" role="status">
        {counted(change.ahead.length, 'step')}, none begun.
      </span>
    );
  const done = change.steps.filter((step) => step.state === 'done').length;
  if (change.state === 'done' && !change.undo.possible)
    return (
      <span className="text-ink2" role="status">
        {done} of {change.steps.length} steps stand. They cannot be taken back as things stand.
      </span>
    );
  return (
    <span className="text-ink2" role="status">
      {done} of {change.steps.length} steps stand.
    </span>
  );
}

interface Revised {
  change: ChangeView;
  /** The revision that the reader made by this sheet, and so has seen. */
  onRevised: (revision: number) => void;
}

function Title({ change, onRevised }: Revised) {
  const client = useQueryClient();
  const [title, setTitle] = useState(change.title);
  const revise = useMutation({
    mutationFn: () => api.revise(change, { title }),
    onSuccess: ({ revision }) => {
      onRevised(revision);
      return client.invalidateQueries();
    },
  });
  return (
    <label className="grid grid-cols-[96px_1fr] items-center pt-2">
      <span className="caps">Title</span>
      <input
        className="field"
        value={title}
        onChange={(event) => setTitle(event.target.value)}
        onBlur={() => title.trim() !== '' && title !== change.title && revise.mutate()}
      />
    </label>
  );
}

function DraftSteps({ change, onRevised }: Revised) {
  const { open } = usePlace();
  const client = useQueryClient();
  const revise = useMutation({
    mutationFn: (operations: ChangeView['operations']) => api.revise(change, { operations }),
    onSuccess: ({ revision }) => {
      onRevised(revision);
      return client.invalidateQueries();
    },
  });
  const { operations, preview } = change;
  const swap = (a: number, b: number) => revise.mutate(operations.with(a, operations[b]!).with(b, operations[a]!));
  if (operations.length === 0)
    return <p className="py-1 text-ink2">It holds nothing. Pick something in the drawing and add to it.</p>;
  return (
    <ol>
      {operations.map((operation, at) => {
        const { do: kind, ...params } = operation;
        const steps = preview?.steps.filter((step) => step.operation === at) ?? [];
        const refused = preview?.refusals.some((refusal) => refusal.operation === at);
        return (
          <li key={at} className="flex gap-2 border-b border-rule-faint py-1.5">
            <span className="step-square ml-0!">{at + 1}</span>
            <div className="min-w-0 flex-1">
              {steps.length === 0 && (
                <p className={refused ? 'text-red' : 'text-ink2'}>{kind}: refused as it stands.</p>
              )}
              {steps.map((step, k) => (
                <p key={k}>
                  {step.title}{' '}
                  <span className="narrow text-ink2">
                    on {step.device.name}, {formatDuration(step.takes)}
                  </span>
                  {step.notes.map((note) => (
                    <span key={note} className="block text-ink2">
                      {note}
                    </span>
                  ))}
                  {step.destroys && <span className="block text-red">Lost for good: {step.destroys}.</span>}
                </p>
              ))}
            </div>
            <span className="flex flex-none items-start gap-2">
              {at > 0 && (
                <button
                  type="button"
                  className="verb narrow"
                  disabled={revise.isPending}
                  onClick={() => swap(at, at - 1)}
                >
                  Up<span className="sr-only"> operation {at + 1}</span>
                </button>
              )}
              <button
                type="button"
                className="verb narrow"
                disabled={revise.isPending}
                onClick={() => open(kind, { ...params, $change: change.id, $at: at })}
              >
                Revise<span className="sr-only"> operation {at + 1}</span>
              </button>
              <button
                type="button"
                className="verb narrow"
                disabled={revise.isPending}
                onClick={() => revise.mutate(operations.filter((_, k) => k !== at))}
              >
                Take out<span className="sr-only"> operation {at + 1}</span>
              </button>
            </span>
          </li>
        );
      })}
    </ol>
  );
}

/** What an approved change would do, as the estate stands now. */
const ApprovedSteps = ({ change }: { change: ChangeView }) => <AheadSteps ahead={change.ahead} label="Steps" />;

const stepWords: Record<StepState, string> = { waiting: 'waits', running: 'at work', done: 'done', undone: 'undone' };

function RunSteps({ change }: { change: ChangeView }) {
  return (
    <ol aria-label="Steps">
      {change.steps.map((step) => (
        <li key={step.n} className="flex items-baseline gap-2 border-b border-rule-faint py-1">
          <span className="step-square ml-0! self-start" data-state={step.state}>
            {step.state === 'done' ? '✓' : step.n + 1}
          </span>
          <span className={`min-w-0 flex-1 ${step.state === 'undone' ? 'text-ink3 line-through' : ''}`}>
            {step.title}
            {step.notes.map((note) => (
              <span key={note} className="block text-ink2">
                {note}
              </span>
            ))}
          </span>
          <span className="narrow flex-none text-ink2">
            {stepWords[step.state]}
            {step.finishedLab !== null && step.state === 'done' ? ` ${labTime(step.finishedLab).slice(-8)}` : ''}
          </span>
        </li>
      ))}
    </ol>
  );
}

export function ChangePost({ state }: { state: ChangeView['state'] }) {
  const post = {
    draft: 'absent',
    running: 'in work',
    undoing: 'in work',
    approved: 'absent',
    paused: 'leans',
    stopped: 'broken',
    stuck: 'broken',
    done: 'stands',
    undone: 'absent',
  } as const;
  return <StatePost post={post[state]} />;
}
