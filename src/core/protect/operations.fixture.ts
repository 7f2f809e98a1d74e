import { named } from '../../../demo/workbench';
import type { Stage } from '../../../demo/protected';
import { deleteFile, writeFile } from '../attach/files';
import { changed, compacted } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import type { Snapshot } from '../estate/entities';
import { brokenRules } from '../rules/book';
import { brokenSums, poolWaterfall } from '../space/waterfall';
import { ofWorkload, pointsOf } from './subject';

export const copyNow = { do: 'snapshot.create', workload: 'Ticketing' };

export const halfHourly = {
  do: 'plan.create',
  name: 'Harbour day',
  zone: 'Europe/Oslo',
  rpo: '30 min',
  every: '30 min',
  keepDays: 1,
  quiesce: true,
};

export const attach = { do: 'plan.attach', plan: 'Harbour day', workloads: ['Ticketing'] };

export const points = ({ estate }: Stage) =>
  pointsOf(estate, ofWorkload(estate, named(estate, 'workload', 'Ticketing')));

export const tickets = ({ estate }: Stage) => named(estate, 'volume', 'tickets-1');

export const device = ({ estate }: Stage) =>
  [...estate.table('hostDevice').values()].find((row) => row.mountPoint !== null)!;

export const set = ({ estate }: Stage, copies: Snapshot[], fields: Partial<Snapshot>) =>
  estate.apply(copies.map((copy) => changed('snapshot', copy, fields)));

export function whole({ estate }: Stage): void {
  expect(brokenRules(estate)).toEqual([]);
  for (const pool of estate.table('pool').values()) expect(brokenSums(estate, poolWaterfall(estate, pool))).toEqual([]);
}

export const unmount = { do: 'host-device.unmount', host: 'gate-1', device: 'tickets-1' };

export const newId = newIds('protect operations');

export let step = 0;

export const file = (at: Stage, path: string, size: number | null) => {
  const done =
    size === null
      ? deleteFile(at.estate, device(at), path, at.now, newId)
      : writeFile(at.estate, device(at), { path, size }, at.now, newIds(`file ${step++}`));
  if (!done.ok) throw new Error(done.refusal.message);
  at.estate.apply(compacted(done.effects));
};
