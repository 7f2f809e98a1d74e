import { basis, carryOut } from '../../../demo/workbench';
import { contextFor } from '../change/plan';
import type { OperationDocument } from '../change/registry';
import { brokenRules } from '../rules/book';
import { changed, compacted } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { nextJobEnd, workJob } from '../work/scheduler';
import { writeTraffic } from '../lab/traffic';
import { lookUp } from '../operation/inquiry';
import { writeRuns } from './grow';

export const context = contextFor(basis, 0, 0);

export const newId = contextFor({ ...basis, seed: 'volumes' }, 6, 6).newId;

export let seed = 0;

export const run = (estate: Estate, ...operations: OperationDocument[]) =>
  carryOut(estate, operations, `volume ${seed++}`);

export const lintel = (estate: Estate) => lookUp(estate, 'array', 'lintel-1')!;

export const volume = (estate: Estate, name = 'tickets-1') => lookUp(estate, 'volume', name, lintel(estate).id)!;

export const pool = (estate: Estate) => lookUp(estate, 'pool', 'quay', lintel(estate).id)!;

export const on = (kind: string, more: Record<string, unknown> = {}): OperationDocument => ({
  do: `volume.${kind}`,
  array: 'lintel-1',
  volumes: ['tickets-1'],
  ...more,
});

export const onCreate = (more: Record<string, unknown>): OperationDocument => ({
  do: 'volume.create',
  array: 'lintel-1',
  ...more,
});

export const device = (estate: Estate) => [...estate.table('hostDevice').values()].find((row) => row.mountPoint)!;

export const write = (estate: Estate, name: string, from: number, to: number) =>
  estate.apply(compacted(writeRuns(estate, volume(estate, name), [[from, to]], newId, basis.now).effects));

export const fill = (estate: Estate, bytes: number) => {
  estate.apply([changed('hostDevice', device(estate), { writeRate: bytes })]);
  estate.apply(compacted(writeTraffic(estate, 1000, basis.now, newId).effects));
  estate.apply([changed('hostDevice', device(estate), { writeRate: 0 })]);
};

export function finish(estate: Estate): void {
  for (let next = nextJobEnd(estate); next; next = nextJobEnd(estate))
    estate.apply(compacted(workJob(estate, next.job, next.at, newId).effects));
}

export const sound = (estate: Estate) => expect(brokenRules(estate)).toEqual([]);
