import { demoEstate } from '../../../../demo/scenario';
import { basis } from '../../../../demo/workbench';
import { pathFinder } from '../../attach/paths';
import { Overlay, type EstateView } from '../../estate/estate';
import { changed } from '../../estate/effects';
import { planChange, unfolded } from '../plan';
import type { OperationDocument } from '../registry';

const { estate: demo } = demoEstate();
const verbs = (view: EstateView, document: OperationDocument) =>
  unfolded(view, [document], basis).map(({ do: kind }) => kind);
const plan = (view: EstateView, ...documents: OperationDocument[]) => planChange(view, documents, basis);
const codes = (view: EstateView, document: OperationDocument) =>
  plan(view, document).refusals.map((refusal) => refusal.code);
const named = <K extends 'host' | 'volume'>(view: EstateView, kind: K, name: string) =>
  [...view.table(kind).values()].find((row) => row.name === name)!;

/** The demo after a host's traffic has stopped. */
function quiet(): Overlay {
  const overlay = new Overlay(demo);
  overlay.apply(
    [...demo.table('hostDevice').values()].map((device) => changed('hostDevice', device, { writeRate: 0 })),
  );
  return overlay;
}

describe('give storage', () => {
  test('to a cluster over Fibre Channel that is zoned already: carve, map, rescan each member, format once', () => {
    expect(verbs(demo, { do: 'storage.give', cluster: 'cargo', size: '100 GiB', name: 'manifests' })).toEqual([
      'volume.create',
      'mapping.create',
      'host.rescan',
      'host.rescan',
      'host-device.format',
    ]);
  });
  test('to hosts that no zone joins with the array: one step a fabric, in order', () => {
    const steps = unfolded(
      demo,
      [{ do: 'storage.give', host: 'keel-backup', size: '100 GiB', pool: 'lintel-1/quay' }],
      basis,
    );
    expect(steps.filter((step) => step.do === 'zoning.join').map((step) => step.fabric)).toEqual(['A', 'B']);
    const { overlay, refusals } = plan(demo, ...steps);
    expect(refusals).toEqual([]);
    const mapping = overlay
      .table('mapping')
      .by('host', named(demo, 'host', 'keel-backup').id)
      .find((row) => overlay.table('volume').get(row.volume)!.name === 'keel-backup');
    expect(pathFinder(overlay).count(mapping!)).toMatchObject({ usable: 4, expected: 4 });
  });
  test('over NVMe/TCP it uses the subsystem that lets the host in, and no rescan', () =>
    expect(verbs(demo, { do: 'storage.give', host: 'berth-sim', size: '50 GiB', name: 'tides' })).toEqual([
      'volume.create',
      'mapping.create',
      'host-device.format',
    ]));
  test('a file system made for clusters is mounted on every member', () => {
    const steps = unfolded(demo, [{ do: 'storage.give', cluster: 'deck', size: '1 TiB', name: 'store-x' }], basis);
    expect(steps.filter((step) => step.do === 'host-device.mount').map((step) => step.host)).toEqual([
      'deck-2',
      'deck-3',
      'deck-4',
    ]);
    const { overlay, refusals } = plan(demo, ...steps);
    expect(refusals).toEqual([]);
    const volume = named(overlay, 'volume', 'store-x');
    expect(
      overlay
        .table('hostDevice')
        .by('volume', volume.id)
        .map((row) => row.mountPoint),
    ).toEqual(Array(4).fill('/stores/store-x'));
    expect(
      new Set(
        overlay
          .table('mapping')
          .by('volume', volume.id)
          .map((row) => row.lun),
      ).size,
    ).toBe(1);
  });
  test('several volumes, thick, unformatted, in a pool that is named', () => {
    const steps = unfolded(
      demo,
      [
        {
          do: 'storage.give',
          host: 'gate-1',
          size: '10 GiB',
          count: 3,
          name: 'scan',
          pool: 'lintel-1/hold',
          provisioning: 'thick',
          mount: false,
        },
      ],
      basis,
    );
    expect(steps[1]).toMatchObject({ do: 'mapping.create', volumes: ['scan-1', 'scan-2', 'scan-3'] });
    expect(steps.map((step) => step.do)).toEqual(['volume.create', 'mapping.create', 'host.rescan']);
  });
  test('names are taken from who gets it, and numbered past volumes and mount points that are called so', () => {
    const first = (params: object) =>
      unfolded(demo, [{ do: 'storage.give', size: '1 GiB', mount: false, ...params }], basis)[0];
    expect(first({ host: 'keel-backup' })).toMatchObject({ name: 'keel-backup', count: 1 });
    // /srv/cargo is in use.
    expect(first({ cluster: 'cargo' })).toMatchObject({ name: 'cargo-1', count: 1 });
    expect(first({ host: 'gate-1', count: 2 })).toMatchObject({ name: 'gate-1', count: 2 });
    const { overlay } = plan(demo, { do: 'storage.give', host: 'gate-1', size: '1 GiB', count: 2, mount: false });
    expect(
      unfolded(overlay, [{ do: 'storage.give', host: 'gate-1', size: '1 GiB', count: 2, mount: false }], basis)[0],
    ).toMatchObject({ name: 'gate-1', startNumber: 3 });
  });
  test('the planned recipe does the same as what it unfolds to', () => {
    const give = { do: 'storage.give', host: 'gate-1', size: '10 GiB', name: 'scan' };
    const titles = (documents: OperationDocument[]) => plan(demo, ...documents).steps.map((step) => step.title);
    expect(titles([give])).toEqual(titles(unfolded(demo, [give], basis)));
  });
  test.each([
    ['nobody', { size: '1 GiB' }, 'host-unknown'],
    ['a size that is none', { host: 'gate-1', size: 'much' }, 'size-unreadable'],
    ['more than any pool has', { host: 'gate-1', size: '900 TiB', provisioning: 'thick' }, 'no-pool-fits'],
    ['a pool it cannot reach', { host: 'gate-1', size: '1 GiB', pool: 'lintel-2/quay' }, 'pool-unfit'],
    ['a pool that is not there', { host: 'gate-1', size: '1 GiB', pool: 'lintel-1/attic' }, 'pool-unknown'],
    ['over a transport that does not lead there', { host: 'gate-1', size: '1 GiB', transport: 'fc' }, 'no-pool-fits'],
    ['formatted and read-only', { host: 'gate-1', size: '1 GiB', access: 'read-only' }, 'read-only'],
  ])('refused: %s', (_what, params, code) => {
    const found = codes(demo, { do: 'storage.give', ...params });
    expect(found).toHaveLength(1);
    if (code !== 'size-unreadable') expect(found).toEqual([code]);
  });
});

describe('take storage back', () => {
  test('while hosts write it is refused, with who does', () => {
    const overlay = new Overlay(demo);
    const device = [...demo.table('hostDevice').values()].find((row) => row.mountPoint === '/srv/tickets')!;
    overlay.apply([changed('hostDevice', device, { writeRate: 1000 })]);
    const { refusals } = plan(overlay, {
      do: 'storage.take-back',
      host: 'gate-1',
      array: 'lintel-1',
      volumes: ['tickets'],
    });
    expect(refusals[0]).toMatchObject({ code: 'in-use', field: 'volumes' });
    expect(refusals[0]!.message).toContain('gate-1 writes');
  });
  test('unmounts, removes, takes mappings and then zones away, and retires', () => {
    const view = quiet();
    const take = {
      do: 'storage.take-back',
      cluster: 'cargo',
      array: 'lintel-1',
      volumes: ['cargo-data', 'cargo-log'],
      confirm: ['cargo-data'],
    };
    const steps = unfolded(view, [take], basis);
    expect([...new Set(steps.map((step) => step.do))]).toEqual([
      'host-device.unmount',
      'host-device.remove',
      'mapping.delete',
      'zoning.part',
      'volume.delete',
    ]);
    const { overlay, refusals } = plan(view, ...steps);
    expect(refusals).toEqual([]);
    const host = named(demo, 'host', 'cargo-db-1');
    expect(overlay.table('mapping').by('host', host.id)).toEqual([]);
    expect(overlay.table('hostDevice').by('host', host.id)).toEqual([]);
    expect([...overlay.table('activeZone').values()].filter((zone) => zone.name.startsWith('cargo'))).toEqual([]);
    expect([...demo.table('activeZone').values()].some((zone) => zone.name.startsWith('cargo'))).toBe(true);
  });
  test('zones stay while something else is mapped from there', () =>
    expect(
      verbs(quiet(), { do: 'storage.take-back', cluster: 'cargo', array: 'lintel-1', volumes: ['cargo-log'] }),
    ).not.toContain('zoning.part'));
  test('data must be named once more', () =>
    expect(
      codes(quiet(), { do: 'storage.take-back', host: 'ledger-1', array: 'lintel-2', volumes: ['ledger'] }),
    ).toEqual(['name-not-confirmed']));
  test('what is given and taken back leaves no trace', () => {
    const view = quiet();
    const { overlay, refusals } = plan(
      view,
      { do: 'storage.give', host: 'keel-backup', size: '10 GiB', pool: 'lintel-1/quay', name: 'loan', mount: false },
      { do: 'storage.take-back', host: 'keel-backup', array: 'lintel-1', volumes: ['loan'], keepDays: 0 },
    );
    expect(refusals).toEqual([]);
    for (const kind of ['volume', 'mapping', 'hostDevice', 'zone', 'activeZone'] as const)
      expect([kind, overlay.table(kind).size]).toEqual([kind, view.table(kind).size]);
  });
  test('retiring is refused while somebody else still sees it; without retiring it goes on', () => {
    const take = { do: 'storage.take-back', host: 'deck-2', array: 'lintel-1', volumes: ['stores-1'] };
    expect(codes(quiet(), take)).toEqual(['still-mapped']);
    expect(codes(quiet(), { ...take, retire: false })).toEqual([]);
    expect(codes(quiet(), { ...take, host: 'gate-1' })).toEqual(['not-mapped']);
  });
});

describe('rescan a cluster', () => {
  test('each member looks again, in order of their names', () =>
    expect(verbs(quiet(), { do: 'cluster.rescan', cluster: 'cargo' })).toEqual(['host.rescan', 'host.rescan']));
  test('an unknown cluster is refused', () =>
    expect(codes(quiet(), { do: 'cluster.rescan', cluster: 'nowhere' })).toEqual(['cluster-unknown']));
});
