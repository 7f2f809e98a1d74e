import { deckStage } from '../../../demo/stretched';
import type { Stage } from '../../../demo/protected';
import { refusalsOf } from '../../../demo/workbench';
import type { OperationDocument } from '../change/registry';
import { changed } from '../estate/effects';
import { lookUp } from '../operation/inquiry';
import { brokenRules } from '../rules/book';
import { GIB } from '../units/bytes';
import { MINUTE } from '../units/duration';
import { machinesOf } from './view';

const array = 'lintel-1';
const make = {
  do: 'machine.make',
  name: 'deck-web',
  cluster: 'deck',
  allotment: 'Virtual deck team',
  array,
  pool: 'quay',
  disks: ['40 GiB', '100 GiB'],
};
const prepared = (): Stage => deckStage({ do: 'allotment.create', name: 'Virtual deck team', size: '300 GiB' });
const made = (): Stage => {
  const of = prepared();
  of.run(make);
  return of;
};
const volume = (of: Stage, name: string) => lookUp(of.estate, 'volume', name, lookUp(of.estate, 'array', array)!.id)!;
const machine = (of: Stage, name = 'deck-web') =>
  machinesOf(of.estate, lookUp(of.estate, 'allotment', 'Virtual deck team')!.id).find((row) => row.name === name)!;

describe('a machine with volumes of its own', () => {
  it('is made in one go: a volume for each disk within the allotment, seen by its whole cluster', () => {
    const of = made();
    expect(machine(of)).toMatchObject({
      cluster: 'deck',
      running: true,
      uncopied: null,
      copies: 0,
      disks: [
        {
          name: 'disk0',
          size: 40 * GIB,
          share: false,
          volume: 'deck-web-disk0',
          naa: volume(of, 'deck-web-disk0').naa,
        },
        { name: 'disk1', size: 100 * GIB, volume: 'deck-web-disk1' },
      ],
    });
    const cluster = lookUp(of.estate, 'cluster', 'deck')!;
    expect(of.estate.table('mapping').by('volume', volume(of, 'deck-web-disk1').id)).toHaveLength(
      of.estate.table('host').countBy('cluster', cluster.id),
    );
    expect(brokenRules(of.estate)).toEqual([]);
  });

  it('beyond the allotment nothing of it is made, and the figures are said', () => {
    const of = prepared();
    const [refusal] = refusalsOf(of.estate, { ...make, disks: ['200 GiB', '200 GiB'] });
    expect(refusal).toMatchObject({ code: 'allotment-total', message: expect.stringMatching(/GiB/) as string });
  });

  it('is copied at one instant and brought back, exactly its volumes', () => {
    const of = made();
    of.run({ do: 'volume.create', array, pool: 'quay', name: 'other', size: '10 GiB' });
    of.run({ do: 'machine.copy', machine: 'deck-web', name: 'before' });
    expect(machine(of)).toMatchObject({ copies: 1, newestCopy: of.now });
    const copies = [...of.estate.table('snapshot').values()].filter(({ name }) => name === 'before');
    expect(copies.map((copy) => of.estate.table('volume').get(copy.volume)!.name).sort()).toEqual([
      'deck-web-disk0',
      'deck-web-disk1',
    ]);
    expect(new Set(copies.map(({ cut }) => cut)).size).toBe(1);
    of.pass(MINUTE);
    of.run({ do: 'machine.go-back', machine: 'deck-web', copy: 'before', safety: false });
    for (const name of ['deck-web-disk0', 'deck-web-disk1'])
      expect(volume(of, name).base).toBe(copies.find((copy) => copy.volume === volume(of, name).id)!.id);
    expect(machine(of).running).toBe(true);
    expect(brokenRules(of.estate)).toEqual([]);
  });

  it('nobody brings a volume back from under it while it runs', () => {
    const of = made();
    of.run({ do: 'machine.copy', machine: 'deck-web', name: 'before' });
    of.pass(MINUTE);
    of.run({ do: 'machine.copy', machine: 'deck-web', name: 'after' });
    const back = { do: 'snapshot.restore', array, volume: 'deck-web-disk0', copy: 'before', safety: false };
    expect(refusalsOf(of.estate, back)[0]).toMatchObject({
      code: 'machine-running',
      message: 'deck-web is running, and its disk0 lies on deck-web-disk0.',
      offer: { do: 'machine.switch' },
    });
    of.run({ do: 'machine.switch', machines: ['deck-web'], on: false }, back);
    of.run({ do: 'machine.switch', machines: ['deck-web'], on: true });
    expect(of.codes({ do: 'snapshot.delete', workload: 'deck-web', copies: ['after'] })).toEqual([]);
  });

  it('a copy that lacks one of its disks does not count', () => {
    const of = made();
    of.run({ do: 'snapshot.create', array, volume: 'deck-web-disk0', name: 'half' });
    expect(machine(of).copies).toBe(0);
  });

  it('no host makes a file system on its disks, and no volume goes from under it', () => {
    const of = made();
    const [device] = of.estate.table('hostDevice').by('volume', volume(of, 'deck-web-disk0').id);
    if (device)
      expect(
        of.codes({
          do: 'host-device.format',
          host: of.estate.table('host').get(device.host)!.name,
          device: device.name,
          fileSystem: 'gfs2',
          mountPoint: '/x',
        }),
      ).toContain('machine-disk-in-use');
    expect(device).toBeDefined();
    for (const host of ['deck-1', 'deck-3'])
      of.run({ do: 'mapping.delete', host, array, volumes: ['deck-web-disk0'] }, { do: 'host.rescan', host });
    expect(of.codes({ do: 'volume.delete', array, volumes: ['deck-web-disk0'], keepDays: 0 })).toEqual([
      'machine-disk-in-use',
    ]);
  });

  it('what it needs does not go before it: its workload, its allotment, its cluster', () => {
    const of = made();
    const needed = (...operations: OperationDocument[]) => {
      const [refusal] = refusalsOf(of.estate, ...operations);
      return `${refusal?.code}: ${refusal?.message}`;
    };
    const volumes = ['deck-web-disk0', 'deck-web-disk1'];
    expect(needed({ do: 'workload.delete', name: 'deck-web' })).toMatch(/deck-web/);
    expect(
      needed({ do: 'allotment.release', array, volumes }, { do: 'allotment.delete', allotment: 'Virtual deck team' }),
    ).toBe('machine-needs-it: Virtual deck team cannot go: it holds the disks of machine deck-web.');
  });

  it('gives disks up, and is put away, only while it is off; its volumes stay', () => {
    const of = made();
    const remove = { do: 'machine.remove-disk', machine: 'deck-web', disks: ['disk1'] };
    expect(of.codes(remove)).toEqual(['machine-running']);
    expect(of.codes({ do: 'machine.delete', machines: ['deck-web'] })).toEqual(['machine-running']);
    of.run({ do: 'machine.switch', machines: ['deck-web'], on: false }, remove);
    expect(machine(of).disks.map(({ name }) => name)).toEqual(['disk0']);
    expect(machine(of).uncopied).toBe('deck-web bears deck-web-disk1 as well');
    expect(of.codes({ do: 'machine.copy', machine: 'deck-web' })).toEqual(['machine-not-alone']);
    of.run({ do: 'machine.delete', machines: ['deck-web'] });
    expect(of.estate.table('machineDisk').size).toBe(0);
    expect(volume(of, 'deck-web-disk0')).toBeDefined();
  });
});

describe('what can be a disk', () => {
  const add = (volume: string, more = {}) => ({ do: 'machine.add-disk', machine: 'deck-web', array, volume, ...more });

  it('is seen by the whole cluster, of the allotment, empty, and of no other machine', () => {
    const of = made();
    of.run({ do: 'volume.create', array, pool: 'quay', name: 'lone', size: '10 GiB' });
    expect(of.codes(add('lone'))).toEqual(['machine-not-mapped', 'machine-outside-allotment']);
    of.run({ do: 'mapping.create', cluster: 'deck', array, volumes: ['lone'] });
    expect(refusalsOf(of.estate, add('lone'))[0]).toMatchObject({
      code: 'machine-outside-allotment',
      message: 'lone is in no allotment; deck-web takes its disks from Virtual deck team.',
      offer: { do: 'allotment.take' },
    });
    of.run({ do: 'allotment.take', allotment: 'Virtual deck team', array, volumes: ['lone'] });
    expect(of.codes(add('lone'))).toEqual([]);
    expect(of.codes(add('deck-web-disk0'))).toEqual(['machine-disk-taken']);
    of.run(add('lone'));
    expect(machine(of).disks.map(({ name }) => name)).toEqual(['disk0', 'disk1', 'disk2']);
  });

  it('or a share of a volume on which the cluster keeps files, as far as its file system reaches', () => {
    const of = made();
    of.run({ do: 'volume.create', array, pool: 'quay', name: 'store', size: '100 GiB' });
    of.run(
      { do: 'mapping.create', cluster: 'deck', array, volumes: ['store'] },
      { do: 'cluster.rescan', cluster: 'deck' },
    );
    expect(of.codes(add('store', { size: '20 GiB' }))).toEqual(['machine-no-cluster-volume']);
    const id = volume(of, 'store').id;
    for (const device of of.estate.table('hostDevice').by('volume', id))
      of.estate.apply([
        changed('hostDevice', device, {
          fileSystem: 'gfs2',
          fileSystemSize: 100 * GIB,
          mountPoint: '/stores/store',
          initialised: true,
        }),
      ]);
    expect(of.codes(add('store'))).toContain('machine-disk-formatted');
    of.run(add('store', { size: '60 GiB' }));
    expect(of.codes(add('store', { size: '50 GiB' }))).toEqual(['machine-share-too-large']);
    of.run(add('store', { size: '40 GiB' }));
    expect(machine(of).uncopied).toBe('disk2 is a share of store, which carries others, too');
    expect(of.codes({ do: 'machine.go-back', machine: 'deck-web', copy: 'x' })).toEqual(['machine-not-alone']);
  });
});
