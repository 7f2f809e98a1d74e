'use client';
import { useRouter } from 'next/navigation';
import { useCallback, useMemo } from 'react';
import type { NextStep } from '@/core/operation/next-step';
import type { SelectableKind, Selection } from '@/core/span/chain';
import { parametersOf, useAddress, writeParameters } from './address';

/** Where the reader is: the selection and the open sheet live in the URL, so that a link or a reload leads back to them. */
export interface Place {
  selection: Selection | null;
  /** An operation (`volume.create`), or one of Trabes' own sheets (`change`, `lab`, `hosts`, `file`). */
  sheet: string | null;
  /** What the sheet starts with. */
  given: Record<string, unknown>;
}

function readGiven(text: string | null): Record<string, unknown> {
  if (!text) return {};
  try {
    const value: unknown = JSON.parse(text);
    return typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : {};
  } catch {
    return {};
  }
}

/** A part of a view that stands in the URL as well: what is shown, filtered, opened. Written without a step in the history. */
export function useParam(name: string, fallback = ''): [string, (value: string) => void] {
  const { path, parameters } = useAddress();
  const put = useCallback(
    (value: string) => {
      const now = parametersOf(path);
      if (value === '' || value === fallback) now.delete(name);
      else now.set(name, value);
      writeParameters(path, now, 'replace');
    },
    [path, name, fallback],
  );
  return [parameters.get(name) ?? fallback, put];
}

export function usePlace() {
  const router = useRouter();
  const { path: here, parameters } = useAddress();

  const place = useMemo<Place>(() => {
    const [kind, id] = (parameters.get('sel') ?? '').split(':');
    return {
      selection: kind && id ? { kind: kind as SelectableKind, id } : null,
      sheet: parameters.get('sheet'),
      given: readGiven(parameters.get('with')),
    };
  }, [parameters]);

  const go = useCallback(
    (next: Partial<Place>, path = here) => {
      const now = parametersOf(here);
      const put = (name: string, value: string | null) => (value === null ? now.delete(name) : now.set(name, value));
      if (next.selection !== undefined) put('sel', next.selection && `${next.selection.kind}:${next.selection.id}`);
      if (next.sheet !== undefined) {
        put('sheet', next.sheet);
        put('with', next.given && Object.keys(next.given).length > 0 ? JSON.stringify(next.given) : null);
      }
      if (path === here) writeParameters(path, now, 'push');
      else router.push(`${path}?${now.toString()}`);
    },
    [here, router],
  );

  return {
    ...place,
    pathname: here,
    select: useCallback((selection: Selection | null) => go({ selection }), [go]),
    open: useCallback((sheet: string, given: Record<string, unknown> = {}) => go({ sheet, given }), [go]),
    /** Opens a form on exactly what a step is about. */
    openStep: useCallback(
      ({ do: sheet, params, field }: NextStep) =>
        go({ sheet, given: field === undefined ? params : { ...params, $field: field } }),
      [go],
    ),
    close: useCallback(() => go({ sheet: null, given: {} }), [go]),
    go,
    /** Goes to a view and nothing else: no selection, no sheet. */
    visit: useCallback(
      (path: string, parameters: Record<string, string> = {}) => {
        const next = new URLSearchParams(parameters);
        if (path === here) writeParameters(path, next, 'push');
        else router.push(next.size > 0 ? `${path}?${next.toString()}` : path);
      },
      [here, router],
    ),
  };
}
