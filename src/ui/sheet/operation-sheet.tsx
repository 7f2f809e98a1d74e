'use client';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Collapsible } from 'radix-ui';
import type { ChangeView } from '@/core/change/record';
import type { Choice, NextStep } from '@/core/operation/operation';
import type { Refusal } from '@/core/operation/refusal';
import { api, type ApiRefusal } from '../api/client';
import { ADDING, rememberOwn } from '../changes/own-revisions';
import { movesSoFar } from '../shell/address';
import { usePlace } from '../shell/place';
import { finished, isEmpty, useDraftValues, useSuggestions, wasLeftUnfinished } from './draft-values';
import { DriveBoard } from './drive-board';
import { FieldRow, Lens } from './field-row';
import { useFirstField } from './first-field';
import type { FieldSpec, FormSpec } from '@/core/operation/form';
import { lensOf, paramsOf } from './form-values';
import { LayoutStrip } from './layout-strip';
import { Foot } from './sheet-foot';
import { InsteadOfView, SheetFrame } from './sheet-frame';

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
  const [left] = useState(() => wasLeftUnfinished(sheetKey));
  const form = useDraftValues(spec, start, sheetKey);
  const { values, put } = form;
  const root = useRef<HTMLFormElement>(null);
  useFirstField(root, spec, start, $field);
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
  const ready = settled && refusals.length === 0 && steps.length > 0;

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
      finished(sheetKey);
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
        refusals={shownRefusals(refusals, field, values[field.name], attempted || form.dirty.has(field.name))}
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

/** What usually follows the steps of an operation, each once. */
function nextOf(steps: readonly { next: NextStep[] }[]): NextStep[] {
  const found = new Map<string, NextStep>();
  for (const step of steps) for (const one of step.next) found.set(JSON.stringify([one.do, one.params]), one);
  // Hosts look again before their file systems grow.
  return [...found.values()].sort((a, b) => Number(a.do !== 'host.rescan') - Number(b.do !== 'host.rescan'));
}

/** A field is refused in words once it holds something, or once the whole was sent. */
function shownRefusals(refusals: readonly Refusal[], field: FieldSpec, value: unknown, touched: boolean): Refusal[] {
  return refusals.filter((refusal) => refusal.field === field.name && (touched || !isEmpty(value)));
}

const MOST_NAMED = 5;
/** What stands behind "More": the first few by their labels, lower case but for what is an abbreviation. */
function foldedWords(labels: readonly string[]): string {
  const words = labels.map((label) => (/^[A-Z][a-z]/.test(label) ? label[0]!.toLowerCase() + label.slice(1) : label));
  const more = words.length - MOST_NAMED;
  return `More: ${words.slice(0, more > 1 ? MOST_NAMED : words.length).join(', ')}${more > 1 ? ` and ${more} others` : ''}`;
}
