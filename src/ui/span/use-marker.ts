'use client';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { Chain, Selection } from '@/core/span/chain';
import { api } from '../api/client';

export interface Marker {
  chain: Chain | null;
  /** Ids of everything on the chain. */
  on: ReadonlySet<string>;
  selected: string | null;
  isGone: boolean;
}

const columns = ['drive', 'raidGroup', 'pool', 'volume', 'port', 'network', 'interface', 'host'] as const;

/** The marker: what is selected, and all that it rests on and carries. */
export function useMarker(selection: Selection | null) {
  const answer = useQuery({
    queryKey: ['selection', selection?.kind, selection?.id],
    queryFn: () => api.selection(selection!.kind, selection!.id),
    enabled: selection !== null,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const chain = selection && answer.data && !answer.isError ? answer.data.chain : null;
  const marker = useMemo<Marker>(() => {
    const on = new Set<string>(chain ? columns.flatMap((column) => chain[column]) : []);
    if (selection) on.add(selection.id);
    return { chain, on, selected: selection?.id ?? null, isGone: answer.isError };
  }, [chain, selection, answer.isError]);
  return { marker, facts: selection && !answer.isError ? (answer.data?.facts ?? null) : null, isGone: answer.isError };
}
