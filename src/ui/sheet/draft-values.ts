import { useCallback, useEffect, useRef, useState } from 'react';
import type { FormSpec } from '@/core/operation/form';
import type { FieldForetold } from '@/core/operation/operation';
import { valuesOf } from './form-values';

type Values = Record<string, unknown>;

interface Held {
  values: Values;
  /** Fields that somebody has written in. */
  dirty: ReadonlySet<string>;
}

/** What a sheet holds while it is filled in. */
export interface DraftValues extends Held {
  put: (name: string, value: unknown) => void;
  /** What is held now, for those who ask later than they were drawn. */
  latest: React.RefObject<Held>;
  /** Fills a field in for somebody who has not written in it. */
  suggest: (name: string, value: unknown) => void;
}

/** What was written into a sheet that was put away before it was added; it is there again when the sheet is opened once more. */
const unfinished = new Map<string, Values | null>();

export const wasLeftUnfinished = (key: string): boolean => Boolean(unfinished.get(key));
/** What the sheet held was added: it need not be kept. */
export const finished = (key: string): void => void unfinished.set(key, null);

function opened(spec: FormSpec, start: Values, key: string): Held {
  const kept = unfinished.get(key) ?? {};
  return { values: { ...valuesOf(spec, start), ...kept }, dirty: new Set(Object.keys(kept)) };
}

/** The values of a sheet; what is written is kept by `key` when the sheet is put away. */
export function useDraftValues(spec: FormSpec, start: Values, key: string): DraftValues {
  const [held, setHeld] = useState(() => opened(spec, start, key));
  const latest = useRef(held);
  useEffect(() => {
    latest.current = held;
  }, [held]);
  useEffect(() => {
    unfinished.delete(key);
    return () => {
      if (unfinished.get(key) === null) return void unfinished.delete(key);
      const { values, dirty } = latest.current;
      const written = spec.fields.filter(
        ({ name, control }) => control !== 'secret' && dirty.has(name) && name in values,
      );
      if (written.length > 0) unfinished.set(key, Object.fromEntries(written.map(({ name }) => [name, values[name]])));
    };
  }, [spec, key]);
  const put = useCallback(
    (name: string, value: unknown) =>
      setHeld(({ values, dirty }) => ({ values: { ...values, [name]: value }, dirty: new Set(dirty).add(name) })),
    [],
  );
  const suggest = useCallback(
    (name: string, value: unknown) => setHeld((now) => ({ ...now, values: { ...now.values, [name]: value } })),
    [],
  );
  return { ...held, put, latest, suggest };
}

/** Fills in what the estate suggests, as long as nobody has written anything else. */
export function useSuggestions(
  { latest, suggest }: DraftValues,
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
      if (isBeingWritten(name, suggested.current[name] !== undefined)) continue;
      const present = latest.current.values[name];
      const untouched = isEmpty(present) || JSON.stringify(present) === suggested.current[name];
      if (!untouched || latest.current.dirty.has(name) || JSON.stringify(present) === JSON.stringify(next)) continue;
      suggested.current[name] = JSON.stringify(next);
      suggest(name, next);
    }
  }, [latest, suggest, spec, fields]);
}

export const isEmpty = (value: unknown): boolean =>
  value === '' || value === undefined || (Array.isArray(value) && value.length === 0);

/** Nobody's typing is cut short: a field that is being written in is left alone, once it was filled in. */
function isBeingWritten(name: string, filledIn: boolean): boolean {
  const writing = document.activeElement;
  return (
    writing instanceof HTMLInputElement &&
    writing.closest(`[data-field="${name}"]`) !== null &&
    (filledIn || writing.value !== '')
  );
}
