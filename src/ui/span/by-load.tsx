'use client';
import { useQuery } from '@tanstack/react-query';
import { createContext, useContext, useMemo, type ReactNode } from 'react';
import { api } from '../api/client';
import { useParam } from '../shell/place';

/** What the last hour asked of a thing: I/O a second, latency at the 95th percentile, how busy; each where it is known. */
export interface LoadFigure {
  iops: number | null;
  p95S: number | null;
  rho: number | null;
  /** Against the most of its kind, 0 to 1; above its limit `hot`. */
  share: number;
  hot: boolean;
}

const ByLoad = createContext<ReadonlyMap<string, LoadFigure> | null>(null);
const HOUR = 3600;

/** The load of a thing where the reader asked for it: null where he did not, undefined where nothing is known of it. */
export function useLoadFigure(id: string): LoadFigure | null | undefined {
  const figures = useContext(ByLoad);
  return figures === null ? null : figures.get(id);
}

export const useByLoad = (): boolean => useContext(ByLoad) !== null;

/** Whether the Span shows load, kept in the address, and how that is turned. */
export function useLoadAsked(): [boolean, () => void] {
  const [figures, put] = useParam('figures');
  const asked = figures === 'load';
  return [asked, () => put(asked ? '' : 'load')];
}

/** Gives what is drawn below it the load of the last hour, where it is asked for. */
export function LoadFigures({ children }: { children: ReactNode }) {
  const [asked] = useLoadAsked();
  const fleet = useQuery({
    queryKey: ['load', 'fleet', HOUR],
    queryFn: () => api.loadFleet(HOUR),
    enabled: asked,
    refetchInterval: asked ? 30_000 : false,
  });
  const figures = useMemo(() => {
    if (!asked) return null;
    const found = new Map<string, LoadFigure>();
    if (!fleet.data) return found;
    for (const kind of ['volume', 'host'] as const) {
      const rows = fleet.data.subjects[kind];
      const most = Math.max(1, ...rows.map(({ iops }) => iops));
      for (const { id, iops, p95S, unserved } of rows)
        found.set(id, { iops, p95S, rho: null, share: iops / most, hot: unserved > 0.01 * iops });
    }
    for (const { id, rho, limit } of fleet.data.resources)
      found.set(id, { iops: null, p95S: null, rho, share: Math.min(1, rho), hot: rho > limit });
    return found;
  }, [asked, fleet.data]);
  return <ByLoad value={figures}>{children}</ByLoad>;
}
