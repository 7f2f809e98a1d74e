import type { OperationDocument } from '@/core/change/registry';
import { changed, compacted, type Effect } from '@/core/estate/effects';
import { Overlay, type EstateView } from '@/core/estate/estate';
import { newIds } from '@/core/estate/new-ids';
import { writeTraffic } from '@/core/lab/traffic';
import { GIB } from '@/core/units/bytes';
import { HOUR, type Milliseconds } from '@/core/units/duration';
import { inUse } from './servers';

/** What lies in the ballast beside the backups, GiB by volume, and what hosts do to it. */
const shelves: Record<string, { gib: number; kind: string; writes: number }> = {
  manifests: { gib: 210, kind: 'files', writes: 2 },
  stowage: { gib: 840, kind: 'files', writes: 4 },
  mail: { gib: 610, kind: 'mail', writes: 3 },
  tariffs: { gib: 430, kind: 'files', writes: 1 },
  weather: { gib: 980, kind: 'archive', writes: 0.4 },
  charts: { gib: 1500, kind: 'archive', writes: 0.2 },
  museum: { gib: 560, kind: 'archive', writes: 0.1 },
};
const names = Object.keys(shelves);
const HOST = 'keel-backup';

/** Volumes that were put where there was room, and are mounted at the backup server. */
export const shelved: OperationDocument[] = [
  ...names.map((name) => ({ do: 'volume.create', array: 'purlin-1', pool: 'ballast', name, size: '3 TiB' })),
  ...names.map((name) => ({
    do: 'volume.activity',
    array: 'purlin-1',
    volumes: [name],
    kind: shelves[name]!.kind,
    reads: 6,
    writes: shelves[name]!.writes,
  })),
  { do: 'mapping.create', host: HOST, array: 'purlin-1', volumes: names },
  { do: 'host.rescan', host: HOST },
  ...names.flatMap((name) => inUse(HOST, name, 'xfs', `/srv/${name}`).filter((one) => one.do !== 'host.rescan')),
];

export const shelvedGib: Record<string, number> = Object.fromEntries(names.map((name) => [name, shelves[name]!.gib]));

/** Fills volumes with what they hold, GiB by name, as if it had been copied there in one hour. */
export function filled(view: EstateView, gib: Readonly<Record<string, number>>, now: Milliseconds): Effect[] {
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const rates = new Map([...view.table('hostDevice').values()].map((row) => [row.id, row.writeRate]));
  const volumeName = (id: string) => view.table('volume').get(id)?.name ?? '';
  const devices = () => [...overlay.table('hostDevice').values()];
  put(
    devices().map((row) =>
      changed('hostDevice', row, { writeRate: Math.round(((gib[volumeName(row.volume)] ?? 0) * GIB) / 3600) }),
    ),
  );
  put(writeTraffic(overlay, HOUR, now, newIds(`skarholt ${Object.keys(gib).join(' ')}`)).effects);
  put(devices().map((row) => changed('hostDevice', row, { writeRate: rates.get(row.id) ?? 0 })));
  return compacted(effects);
}

const away = (volumes: string[], more: Record<string, unknown>): OperationDocument => ({
  do: 'storage.move',
  array: 'purlin-1',
  volumes,
  to: 'lintel-1',
  pool: 'hold',
  wavePlan: 'Empty ballast',
  pauseS: 5,
  cap: '80 MiB/s',
  ...more,
});
const early = ['stowage', 'mail', 'tariffs', 'weather'];

/** Last night the ballast began to be emptied: what hosts read to faster disks in two waves, the backups to the vault. */
export const waves: OperationDocument[] = [
  {
    do: 'wave-plan.create',
    name: 'Empty ballast',
    from: 20,
    until: 7,
    slots: 2,
    notes: 'Its drives are needed at Molenhaven in May.',
  },
  away(['manifests'], { notes: 'First, to see that it works.' }),
  away(early, { together: 'Wave 1', after: ['manifests'] }),
  away(['charts', 'museum'], { together: 'Wave 2', after: ['manifests'] }),
  {
    do: 'volume.move',
    array: 'purlin-1',
    volumes: ['keel'],
    pool: 'vault',
    wavePlan: 'Empty ballast',
    after: early,
    cap: '160 MiB/s',
    proveDays: 14,
  },
];

/** Hours before the demo begins at which the first of them is confirmed. */
export const CUT_HOURS = 1;
export const firstCut: OperationDocument[] = [{ do: 'move.confirm', moves: ['manifests'] }];
