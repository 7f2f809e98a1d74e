'use client';
import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { useCallback, useMemo } from 'react';
import type { NextStep } from '@/core/operation/next-step';
import type { SelectableKind, Selection } from '@/core/span/chain';

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
  const query = useSearchParams();
  const put = useCallback(
    (value: string) => {
      const params = new URLSearchParams(window.location.search);
      if (value === '' || value === fallback) params.delete(name);
      else params.set(name, value);
      const text = params.toString();
      window.history.replaceState(null, '', text ? `${window.location.pathname}?${text}` : window.location.pathname);
    },
    [name, fallback],
  );
  return [query.get(name) ?? fallback, put];
}

let moves = 0;
/** How often the reader went somewhere. The URL alone does not tell: the router may write an older one back for a moment. */
export const movesSoFar = (): number => moves;

export function usePlace() {
  const router = useRouter();
  const pathname = usePathname();
  const query = useSearchParams();

  const place = useMemo<Place>(() => {
    const [kind, id] = (query.get('sel') ?? '').split(':');
    return {
      selection: kind && id ? { kind: kind as SelectableKind, id } : null,
      sheet: query.get('sheet'),
      given: readGiven(query.get('with')),
    };
  }, [query]);

  const go = useCallback(
    (next: Partial<Place>, path = pathname) => {
      moves += 1;
      const params = new URLSearchParams(window.location.search);
      const put = (name: string, value: string | null) =>
        value === null ? params.delete(name) : params.set(name, value);
      if (next.selection !== undefined) put('sel', next.selection && `${next.selection.kind}:${next.selection.id}`);
      if (next.sheet !== undefined) {
        put('sheet', next.sheet);
        put('with', next.given && Object.keys(next.given).length > 0 ? JSON.stringify(next.given) : null);
      }
      const text = params.toString();
      const url = text ? `${path}?${text}` : path;
      // Within a view the URL changes without asking the server for the page again.
      if (path === pathname) window.history.pushState(null, '', url);
      else router.push(url);
    },
    [pathname, router],
  );

  return {
    ...place,
    pathname,
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
  };
}
