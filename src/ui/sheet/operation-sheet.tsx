'use client';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useId, useMemo, useRef, useState } from 'react';
import { Checkbox, Collapsible } from 'radix-ui';
import { useForm, useWatch } from 'react-hook-form';
import type { ChangeView } from '@/core/change/record';
import type { Choice, FieldForetold, NextStep } from '@/core/operation/operation';
import type { Refusal } from '@/core/operation/refusal';
import { formatDuration } from '@/core/units/duration';
import { api, type ApiRefusal } from '../api/client';
import { ADDING, rememberOwn } from '../changes/own-revisions';
import { movesSoFar } from '../shell/address';
import { usePlace } from '../shell/place';
import { Interfaces, Lines, Pick, Ports, Scale, Several, Toggle, type InterfaceRow } from './controls';
import { DriveBoard } from './drive-board';
import type { FieldSpec, FormSpec } from '@/core/operation/form';
import { lensOf, paramsOf, valuesOf } from './form-values';
import { LayoutStrip } from './layout-strip';
import { LevelComparison } from './level-comparison';
import { InsteadOfView, MainKey, SheetFrame } from './sheet-frame';

const DEBOUNCE = 120;

function useDebounced<T>(value: T, key: string): T {
  const [settled, setSettled] = useState({ value, key });
  useEffect(() => {
    const timer = setTimeout(() => setSettled({ value, key }), DEBOUNCE);
    return () => clearTimeout(timer);
  }, [value, key]);
  return settled.value;
}

interface SheetProps {
  kind: string;
  spec: FormSpec;
  given: Record<string, unknown>;
}

/** The sheet of one operation: fields, and beside each what its value means, computed by the core on the estate as the draft leaves it. */
export function OperationSheet({ kind, spec, given }: SheetProps) {
  const { close, open } = usePlace();
  const client = useQueryClient();
  const { $change, $at, $field, ...start } = given as {
    $change?: string;
    $at?: number;
    $field?: string;
  } & Record<string, unknown>;
  const sheetKey = `${kind} ${JSON.stringify(given)}`;
  const [left] = useState(() => Boolean(unfinished.get(sheetKey)));
  const form = useForm<Record<string, unknown>>({ defaultValues: valuesOf(spec, start) });
  useUnfinished(form, spec, sheetKey);
  const root = useRef<HTMLFormElement>(null);
  useFirstField(root, spec, start, $field);
  const values = useWatch({ control: form.control });
  const [attempted, setAttempted] = useState(false);
  const [unfolded, setUnfolded] = useState(() =>
    spec.fields.some((field) => field.more && (field.name in start || field.name === $field)),
  );
  const tray = useQuery({ queryKey: ['tray'], queryFn: api.tray });
  const draft = $change ?? (tray.data?.change?.state === 'draft' ? tray.data.change.id : null);

  const [count, setCount] = useState<number | null>(null);
  const current = useMemo(
    () => ({
      params: paramsOf(spec, values),
      lens: { ...lensOf(spec, values), ...(count === null ? {} : { $count: count }) },
    }),
    [spec, values, count],
  );
  const currentKey = JSON.stringify(current);
  const settledOn = useDebounced(current, currentKey);
  const { params, lens } = settledOn;
  const paramsKey = JSON.stringify(settledOn);
  const answer = useQuery({
    queryKey: ['form', kind, paramsKey, draft, $at],
    queryFn: () => api.form(kind, params, lens, draft, $at),
    enabled: tray.isSuccess || $change !== undefined,
    placeholderData: keepPreviousData,
  });
  useSuggestions(form, spec, answer.data?.fields);

  const refusals = answer.data?.preview.refusals ?? [];
  const [withNext, setWithNext] = useState(true);
  const next = useMemo(() => nextOf(answer.data?.preview.steps ?? []), [answer.data]);
  const settled = currentKey === paramsKey && !answer.isPlaceholderData && answer.isSuccess;
  const steps = answer.data?.preview.steps ?? [];
  // A sheet in which nothing was changed has nothing to add.
  const idle = kind.endsWith('.configure') && steps.length > 0 && steps.every((step) => step.idle);
  const ready = settled && refusals.length === 0 && steps.length > 0 && !idle;

  const add = useMutation<ChangeView, ApiRefusal>({
    mutationKey: ADDING,
    mutationFn: async () => {
      const document = { do: kind, ...params };
      const following = withNext ? next.map((step) => ({ do: step.do, ...step.params })) : [];
      const change = draft ? await api.change(draft) : null;
      if (!change) return api.prepare(answer.data!.title.slice(0, 120), [document, ...following]);
      const operations =
        $at === undefined
          ? [...change.operations, document, ...following]
          : change.operations.map((old, k) => (k === $at ? document : old));
      const revised = await api.revise(change, { operations });
      rememberOwn(revised);
      return revised;
    },
    onSuccess: async (revised) => {
      unfinished.set(sheetKey, null);
      // The draft as it is now is shown at once, wherever it is opened next.
      client.setQueryData(['change', revised.id], revised);
      await client.invalidateQueries();
      // What was opened meanwhile stays.
      if (movesSoFar() !== asked.current) return;
      if ($change) open('change', { id: $change });
      else close();
    },
  });
  const asked = useRef(0);
  const submit = () => {
    setAttempted(true);
    if (!ready || add.isPending) return;
    asked.current = movesSoFar();
    add.mutate();
  };

  const put = (name: string, value: unknown) => form.setValue(name, value, { shouldDirty: true });
  const ticked = (values.drives ?? []) as string[];
  const unfit = useMemo(
    () =>
      new Map(
        (answer.data?.fields.drives?.choices ?? []).flatMap((choice: Choice) =>
          choice.unfit ? [[choice.value, choice.unfit] as const] : [],
        ),
      ),
    [answer.data],
  );
  const arrayName = typeof values.array === 'string' ? values.array : '';

  const folded = spec.fields.filter((field) => field.more);
  const row = (field: FieldSpec) => {
    const fieldRow = (
      <FieldRow
        key={field.name}
        field={field}
        foretold={answer.data?.fields[field.name]}
        value={values[field.name]}
        refusals={shownRefusals(
          refusals,
          field,
          values[field.name],
          attempted || Boolean(form.formState.dirtyFields[field.name]),
        )}
        comparison={answer.data?.comparison}
        onChange={(value) => put(field.name, value)}
      />
    );
    if (field.control !== 'levels') return fieldRow;
    return (
      <div key={field.name}>
        <Lens fields={spec.lens ?? []} values={values} onChange={put} />
        {fieldRow}
        {answer.data?.layout && <LayoutStrip layout={answer.data.layout} />}
      </div>
    );
  };

  return (
    <>
      {spec.columns.length === 0 && (
        <InsteadOfView>
          <DriveBoard
            arrayName={arrayName}
            ticked={ticked}
            unfit={unfit}
            onTick={(drives) => put('drives', drives)}
            chosen={answer.data?.chosen}
            count={spec.lens ? { value: count ?? (ticked.length || 8), onChange: setCount } : undefined}
          />
        </InsteadOfView>
      )}
      <form
        ref={root}
        className="contents"
        onSubmit={(event) => {
          event.preventDefault();
          submit();
        }}
      >
        <SheetFrame
          ownFocus
          title={spec.title}
          line={
            $at === undefined
              ? `${
                  draft ? `joins the draft “${tray.data?.change?.title ?? ''}”` : 'begins a draft'
                }${left ? ', as you left it' : ''}`
              : `step ${$at + 1} of the draft`
          }
          foot={
            <Foot
              answer={answer.data?.preview ?? null}
              problem={add.error ?? (answer.error as ApiRefusal | null)}
              ready={ready}
              idle={idle}
              pending={add.isPending}
              attempted={attempted}
              onAdd={submit}
              revising={$at !== undefined}
              next={$at === undefined ? next : []}
              withNext={withNext}
              onWithNext={setWithNext}
            />
          }
        >
          {spec.fields.filter((field) => !field.more).map(row)}
          {folded.length > 0 && (
            <Collapsible.Root open={unfolded} onOpenChange={setUnfolded}>
              <Collapsible.Trigger className="verb mx-4 my-1" type="button">
                {unfolded ? 'Less' : foldedWords(folded.map((field) => field.label))}
              </Collapsible.Trigger>
              <Collapsible.Content>{folded.map(row)}</Collapsible.Content>
            </Collapsible.Root>
          )}
        </SheetFrame>
      </form>
    </>
  );
}

/** How the reader looks at a comparison: asked for figures alone, no part of the operation. */
function Lens({
  fields,
  values,
  onChange,
}: {
  fields: readonly FieldSpec[];
  values: Record<string, unknown>;
  onChange: (name: string, value: string) => void;
}) {
  return (
    <fieldset className="grid grid-cols-3 gap-x-6 border-b border-rule-faint px-4 py-1">
      <legend className="sr-only">Compared for</legend>
      {fields.map(({ name, label, range, placeholder }) => {
        const value = values[name];
        const text = typeof value === 'string' ? value : '';
        return (
          <label key={name} className="grid">
            <span className="caps">{label}</span>
            {range ? (
              <Scale
                label={label}
                value={text === '' ? range.start : Number(text)}
                range={range}
                onChange={(next) => onChange(name, next)}
              />
            ) : (
              <input
                className="field h-6!"
                value={text}
                placeholder={placeholder}
                onChange={(event) => onChange(name, event.target.value)}
              />
            )}
          </label>
        );
      })}
    </fieldset>
  );
}

/** What usually follows the steps of an operation, each once. */
function nextOf(steps: readonly { next: NextStep[] }[]): NextStep[] {
  const found = new Map<string, NextStep>();
  for (const step of steps) for (const one of step.next) found.set(JSON.stringify([one.do, one.params]), one);
  // Hosts look again before their file systems grow.
  return [...found.values()].sort((a, b) => Number(a.do !== 'host.rescan') - Number(b.do !== 'host.rescan'));
}

/** What was written into a sheet that was put away before it was added; it is there again when the sheet is opened once more. */
const unfinished = new Map<string, Record<string, unknown> | null>();

function useUnfinished(form: ReturnType<typeof useForm<Record<string, unknown>>>, spec: FormSpec, key: string): void {
  useEffect(() => {
    const kept = unfinished.get(key);
    if (kept) for (const [name, value] of Object.entries(kept)) form.setValue(name, value, { shouldDirty: true });
    unfinished.delete(key);
    return () => {
      // Added: null stands for that, and is taken away.
      if (unfinished.get(key) === null) return void unfinished.delete(key);
      const values = form.getValues();
      const written = spec.fields.filter(
        (field) => field.control !== 'secret' && form.getFieldState(field.name).isDirty && field.name in values,
      );
      if (written.length > 0)
        unfinished.set(key, Object.fromEntries(written.map((field) => [field.name, values[field.name]])));
    };
  }, [form, spec, key]);
}

const FOCUSABLE = ':is(input, textarea, button, [role=combobox], [role=listbox], [tabindex="0"])';
/** Frames that are waited for a field whose choices are still asked for. */
const FRAMES = 40;

/** Puts the focus on what is to be filled in first: the field the sheet was opened for, else the first that is not given yet. */
function useFirstField(
  root: React.RefObject<HTMLFormElement | null>,
  spec: FormSpec,
  start: Record<string, unknown>,
  named: string | undefined,
): void {
  const wanted = useRef(() => {
    const open = spec.fields.filter((field) => !field.more);
    // Of a host and a cluster only one is asked for.
    const answered = (name: string) =>
      name in start || (name === 'cluster' && 'host' in start) || (name === 'host' && 'cluster' in start);
    return named ?? (open.find((field) => !answered(field.name)) ?? open[0])?.name;
  });
  useEffect(() => {
    const name = wanted.current();
    let frames = 0;
    let frame = 0;
    const look = () => {
      const board = spec.columns.length === 0 && name !== undefined && !(name in start) ? '[data-drives]' : null;
      const found =
        (board ? document.querySelector<HTMLElement>(board) : null) ??
        root.current?.querySelector<HTMLElement>(`[data-field="${name}"] ${FOCUSABLE}`);
      if (found) return found.focus({ preventScroll: board !== null });
      frames += 1;
      if (frames < FRAMES) frame = requestAnimationFrame(look);
      else root.current?.querySelector<HTMLElement>(FOCUSABLE)?.focus();
    };
    look();
    return () => cancelAnimationFrame(frame);
    // Once, when the sheet opens.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
}

/** A field is refused in words once it holds something, or once the whole was sent. */
function shownRefusals(refusals: readonly Refusal[], field: FieldSpec, value: unknown, touched: boolean): Refusal[] {
  const empty = value === '' || value === undefined || (Array.isArray(value) && value.length === 0);
  return refusals.filter((refusal) => refusal.field === field.name && (touched || !empty));
}

/** Fills in what the estate suggests, as long as nobody has written anything else. */
function useSuggestions(
  form: ReturnType<typeof useForm<Record<string, unknown>>>,
  spec: FormSpec,
  fields: Record<string, FieldForetold> | undefined,
): void {
  const suggested = useRef<Record<string, string>>({});
  useEffect(() => {
    if (!fields) return;
    for (const { name, control } of spec.fields) {
      const foretold = fields[name];
      const fallback =
        control === 'select' && (name === 'array' || name === 'site') ? foretold?.choices?.[0]?.value : undefined;
      const next = foretold?.suggested ?? fallback;
      if (next === undefined || control === 'switch') continue;
      // Nobody's typing is cut short: a field that is being written in is left alone, once it was filled in.
      const writing = document.activeElement;
      if (
        writing instanceof HTMLInputElement &&
        writing.closest(`[data-field="${name}"]`) &&
        (suggested.current[name] !== undefined || writing.value !== '')
      )
        continue;
      const present = form.getValues(name);
      const untouched =
        present === '' ||
        present === undefined ||
        (Array.isArray(present) && present.length === 0) ||
        JSON.stringify(present) === suggested.current[name];
      if (!untouched || form.getFieldState(name).isDirty || JSON.stringify(present) === JSON.stringify(next)) continue;
      suggested.current[name] = JSON.stringify(next);
      form.setValue(name, next, { shouldDirty: false });
    }
  }, [form, spec, fields]);
}

interface FieldRowProps {
  field: FieldSpec;
  foretold: FieldForetold | undefined;
  value: unknown;
  refusals: Refusal[];
  comparison: import('@/core/operation/operation').Comparison | undefined;
  onChange: (value: unknown) => void;
}

function FieldRow({ field, foretold, value, refusals, comparison, onChange }: FieldRowProps) {
  const id = useId();
  const says = `${id}-says`;
  const invalid = refusals.length > 0;
  const consequence = (
    <div id={says} className="min-w-0 py-[5px] text-ink2">
      {invalid
        ? refusals.slice(0, 2).map((refusal) => (
            <p key={refusal.message} className="refusal" role="alert">
              {refusal.message} <span className="text-ink">{refusal.mend}</span>
            </p>
          ))
        : foretold?.says}
    </div>
  );
  if (field.control === 'levels')
    return (
      <div className="px-4 pt-2">
        {comparison && (
          <LevelComparison comparison={comparison} value={typeof value === 'string' ? value : ''} onPick={onChange} />
        )}
        {consequence}
      </div>
    );
  const text = typeof value === 'string' ? value : '';
  const list = Array.isArray(value) ? (value as string[]) : [];
  const choices = foretold?.choices ?? [];
  const control = () => {
    switch (field.control) {
      case 'select':
        return <Pick id={id} value={text} choices={choices} onPick={onChange} invalid={invalid} describedBy={says} />;
      case 'several':
        return <Several label={field.label} value={list} choices={choices} onChange={onChange} describedBy={says} />;
      case 'lines':
        return (
          <Lines
            id={id}
            label={field.label}
            value={list}
            onChange={onChange}
            placeholder={field.placeholder}
            invalid={invalid}
            describedBy={says}
          />
        );
      case 'interfaces':
        return (
          <Interfaces
            id={id}
            value={value as InterfaceRow[]}
            onChange={onChange}
            invalid={invalid}
            describedBy={says}
          />
        );
      case 'ports':
        return (
          <Ports value={value === 'all' ? 'all' : list} choices={choices} onChange={onChange} describedBy={says} />
        );
      case 'switch':
        return (
          <Toggle
            id={id}
            value={value === '' ? foretold?.suggested === 'true' : value === true}
            onChange={onChange}
            describedBy={says}
          />
        );
      case 'drives':
        return <p className="py-[5px]">{list.length === 0 ? 'Tick them in the drawing.' : list.join(', ')}</p>;
      default:
        return (
          <input
            id={id}
            className="field"
            type={field.control === 'secret' ? 'password' : 'text'}
            value={text}
            placeholder={field.placeholder}
            inputMode={field.control === 'number' ? 'numeric' : undefined}
            autoComplete="off"
            spellCheck={false}
            aria-invalid={invalid}
            aria-describedby={says}
            onChange={(event) => onChange(event.target.value)}
          />
        );
    }
  };
  const wide = ['interfaces', 'lines', 'several'].includes(field.control);
  return (
    <div
      data-field={field.name}
      className={`grid gap-x-3 border-b border-rule-faint px-4 py-1.5 ${wide ? 'grid-cols-[96px_minmax(0,280px)_minmax(0,1fr)]' : 'grid-cols-[96px_minmax(0,212px)_minmax(0,1fr)]'}`}
    >
      <label htmlFor={id} className="caps pt-[7px]">
        {field.label}
      </label>
      <div className="min-w-0">{control()}</div>
      {consequence}
    </div>
  );
}

const STEPS = 4;

const undoWords = ({ destroys, steps }: import('@/core/change/preview').Preview): string =>
  destroys.length > 0
    ? 'It cannot be undone.'
    : steps.every((step) => step.idle)
      ? 'Nothing of it is left to undo.'
      : 'It can be undone.';

function Foot({
  answer,
  problem,
  ready,
  idle,
  pending,
  attempted,
  onAdd,
  revising,
  next,
  withNext,
  onWithNext,
}: {
  answer: import('@/core/change/preview').Preview | null;
  problem: ApiRefusal | null;
  ready: boolean;
  idle: boolean;
  pending: boolean;
  attempted: boolean;
  onAdd: () => void;
  revising: boolean;
  next: readonly NextStep[];
  withNext: boolean;
  onWithNext: (wanted: boolean) => void;
}) {
  const { openStep } = usePlace();
  const refusal = answer?.refusals[0];
  return (
    <div className="grid gap-2">
      <h2 className="caps">What will happen</h2>
      {problem && (
        <p role="alert" className="refusal">
          {problem.message} <span className="text-ink">{problem.mend}</span>
        </p>
      )}
      <ol className="grid gap-1">
        {answer?.steps.slice(0, STEPS).map((step, k) => (
          <li key={k} className="flex items-baseline gap-2">
            <span className="step-square ml-0! self-start">{k + 1}</span>
            <span>
              {step.title}
              {step.notes.map((note) => (
                <span key={note} className="block text-ink2">
                  {note}
                </span>
              ))}
              {step.destroys && <span className="block text-red">Lost for good: {step.destroys}.</span>}
            </span>
          </li>
        ))}
        {answer && answer.steps.length > STEPS && (
          <li className="text-ink2">
            and {answer.steps.length - STEPS} more {answer.steps.length - STEPS === 1 ? 'step' : 'steps'}
          </li>
        )}
        {answer?.steps.length === 0 && !refusal && <li className="text-ink2">Nothing yet.</li>}
      </ol>
      {next.length > 0 && (
        <label className="flex items-start gap-2">
          <Checkbox.Root
            checked={withNext}
            onCheckedChange={(checked) => onWithNext(checked === true)}
            className="mt-[2px] grid size-[15px] flex-none place-items-center border border-ink"
          >
            <Checkbox.Indicator className="size-[9px] bg-ink" />
          </Checkbox.Root>
          <span>
            Then also:{' '}
            {next
              .slice(0, 4)
              .map((step) => step.label)
              .join(', ')}
            {next.length > 4 ? ` and ${next.length - 4} more` : ''}
          </span>
        </label>
      )}
      <div className="flex items-center gap-3">
        <span className={`min-w-0 flex-1 ${attempted && refusal ? 'text-red' : 'text-ink2'}`}>
          {refusal
            ? `${refusal.message} ${refusal.mend}`
            : answer && answer.steps.length > 0
              ? idle
                ? 'Nothing would change.'
                : `Takes ${formatDuration(answer.takes)}. ${undoWords(answer)}`
              : ''}
        </span>
        {refusal?.offer && (
          <button type="button" className="verb flex-none" onClick={() => openStep(refusal.offer!)}>
            {refusal.offer.label}
          </button>
        )}
        <MainKey />
        <button
          type="button"
          data-main
          className={`btn ${ready ? 'solid' : ''}`}
          aria-disabled={!ready}
          disabled={pending}
          onClick={onAdd}
        >
          {pending ? 'Adding …' : revising ? 'Put into the draft' : 'Add to draft'}
        </button>
      </div>
    </div>
  );
}

const MOST_NAMED = 5;
/** What stands behind "More": the first few by their labels, lower case but for what is an abbreviation. */
function foldedWords(labels: readonly string[]): string {
  const words = labels.map((label) => (/^[A-Z][a-z]/.test(label) ? label[0]!.toLowerCase() + label.slice(1) : label));
  const more = words.length - MOST_NAMED;
  return `More: ${words.slice(0, more > 1 ? MOST_NAMED : words.length).join(', ')}${more > 1 ? ` and ${more} others` : ''}`;
}
