'use client';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { Trouble, Work } from '@/core/lab/view';

export interface ClockState {
  now: number;
  speed: number;
  jobs: { id: string; progress: number; left: number }[];
  /** When this was heard, on the screen's own clock. */
  heard: number;
}

/** Queries whose answers a commit may change. */
const ofTheEstate = [
  'span',
  'selection',
  'form',
  'lab',
  'tray',
  'capacity',
  'findings',
  'fabric',
  'trace',
  'topology',
  'what-if',
  'host-sheet',
  'load',
  'targets',
  'merge',
  'protection',
  'moves',
  // What may be undone moves with the estate.
  'change',
];

/** Listens to the server: what it commits is read again, what its clock says is handed on. */
export function useLive(): {
  clock: ClockState | null;
  connected: boolean;
  troubles: readonly Trouble[];
  work: Work | null;
} {
  const client = useQueryClient();
  const [clock, setClock] = useState<ClockState | null>(null);
  const [connected, setConnected] = useState(false);
  const [troubles, setTroubles] = useState<readonly Trouble[]>([]);
  const [work, setWork] = useState<Work | null>(null);

  useEffect(() => {
    const source = new EventSource('/api/v1/events');
    const stale = new Set<string>();
    let timer: ReturnType<typeof setTimeout> | null = null;
    let costs = 0;
    // A large estate takes long to read: it is read again no more often than a quarter of the time allows.
    const refresh = (...keys: string[]) => {
      keys.forEach((key) => stale.add(key));
      timer ??= setTimeout(
        () => {
          const begun = performance.now();
          const due = [...stale];
          stale.clear();
          void Promise.all(due.map((key) => client.invalidateQueries({ queryKey: [key] }))).then(() => {
            costs = performance.now() - begun;
            timer = null;
            if (stale.size > 0) refresh();
          });
        },
        Math.max(200, costs * 3),
      );
    };
    const on = <T>(name: string, heard: (event: T) => void) =>
      source.addEventListener(name, (event) => heard(JSON.parse((event as MessageEvent<string>).data) as T));
    on<unknown>('commit', () => refresh(...ofTheEstate));
    on<unknown>('change', () => refresh('changes', 'change', 'tray', 'mail'));
    on<unknown>('tray', () => refresh('tray', 'changes'));
    on<Omit<ClockState, 'heard'>>('clock', (event) => setClock({ ...event, heard: performance.now() }));
    on<{ troubles: Trouble[] }>('trouble', (event) => setTroubles(event.troubles));
    on<Work>('work', (event) => setWork(event.of === 0 ? null : event));
    source.onopen = () => setConnected(true);
    source.onerror = () => setConnected(false);
    return () => {
      source.close();
      if (timer) clearTimeout(timer);
    };
  }, [client]);

  return { clock, connected, troubles, work };
}
