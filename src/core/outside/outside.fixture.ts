import { stageOf, type Stage } from '../../../demo/protected';
import { named } from '../../../demo/workbench';
import { changed, compacted } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import { writeFile } from '../attach/files';
import { tried } from '../rules/book';
import { GIB } from '../units/bytes';
import { MINUTE } from '../units/duration';
import { withOldArray } from '../../../demo/old-array';

export const look = { do: 'outside.rescan', array: 'lintel-1' };

export const all = ['corbel-9:0', 'corbel-9:1', 'corbel-9:2'];

export const inspect = { do: 'outside.inspect', array: 'lintel-1', luns: all };

export const inspectOne = { ...inspect, luns: ['corbel-9:1'] };

export const keep = { do: 'outside.keep', array: 'lintel-1', luns: ['corbel-9:1'] };

export const front = { do: 'outside.front', array: 'lintel-1', lun: 'corbel-9:1' };

export const giveBack = { do: 'outside.give-back', array: 'lintel-1', luns: ['corbel-9:1'] };

export const release = { do: 'outside.release', array: 'lintel-1', luns: ['corbel-9:1'] };

export const mapBack = { do: 'mapping.create', host: 'keel-backup', array: 'lintel-1', volumes: ['ledger-old'] };

export const rescan = { do: 'host.rescan', host: 'keel-backup' };

export const mount = { do: 'host-device.mount', host: 'keel-backup', device: 'ledger-old', mountPoint: '/srv/ledger' };

export const moveIn = { do: 'volume.move', array: 'lintel-1', volumes: ['ledger-old'], pool: 'quay' };

export const old = (of: Stage) =>
  of.estate
    .table('volume')
    .by('array', named(of.estate, 'array', 'corbel-9').id)
    .find(({ name }) => name === 'ledger-old')!;

export const ours = (of: Stage, name = 'ledger-old') =>
  of.estate
    .table('volume')
    .by('array', named(of.estate, 'array', 'lintel-1').id)
    .find((row) => row.name === name)!;

export const mountedAt = (of: Stage) =>
  [...of.estate.table('hostDevice').values()].find((row) => row.mountPoint !== null)!;

export const lun = (of: Stage, name = 'corbel-9:1') => named(of.estate, 'outsideLun', name);

export const blank = (of: Stage, more: Record<string, unknown> = {}) => ({
  do: 'outside.blank',
  array: 'lintel-1',
  luns: ['corbel-9:0'],
  serials: [named(of.estate, 'volume', 'hollow').serial],
  ...more,
});

/** A day's work on the old disk, then it is left: files of known content. */
export function worked(): Stage {
  const of = stageOf(withOldArray());
  const device = mountedAt(of);
  const newId = newIds('files');
  for (const path of ['journal-2029', 'journal-2030']) {
    const done = writeFile(
      of.estate,
      of.estate.table('hostDevice').get(device.id)!,
      { path, size: 30 * GIB },
      of.now,
      newId,
    );
    if (!done.ok) throw new Error(done.refusal.message);
    of.estate.apply(compacted(done.effects));
  }
  of.run({ do: 'host-device.unmount', host: 'keel-backup', device: 'ledger-old' });
  of.estate.apply([changed('array', named(of.estate, 'array', 'corbel-9'), { outside: true })]);
  of.pass(5 * MINUTE);
  of.run(look, inspect);
  return of;
}

export const files = (of: Stage, volume = ours(of)) => volume.files.map(({ path, checksum }) => `${path} ${checksum}`);

export const sound = (of: Stage) => expect(tried(of.estate, []).broken).toEqual([]);
