import { carryOut, estateAfter, smallChain, named } from '../../../demo/workbench';
import { demoEstate } from '../../../demo/scenario';
import { changed, compacted } from '../estate/effects';
import { Overlay, type EstateView } from '../estate/estate';
import { newIds } from '../estate/new-ids';
import { nightly } from '../lab/nightly';
import { storeOf } from '../pool/store';
import { brokenRules } from '../rules/book';
import { DAY } from '../units/duration';
import { writeRuns } from '../volume/grow';
import { planChange } from './plan';
import type { OperationDocument } from './registry';

const { estate: demo } = demoEstate();
const plan = (view: EstateView, ...operations: OperationDocument[]) =>
  planChange(view, operations, { seed: 'mended', now: 1_934_000_000_000, month: '2031-04' });
const sound = (view: EstateView) => expect(brokenRules(view)).toEqual([]);

describe('a reduced store', () => {
  test('is written anew when its pool is set otherwise, and says so', () => {
    const { steps, refusals, overlay } = plan(demo, {
      do: 'pool.configure',
      array: 'lintel-1',
      name: 'quay',
      compression: false,
    });
    expect(refusals).toEqual([]);
    const before = named(demo, 'pool', 'quay');
    const pool = overlay.table('pool').get(before.id)!;
    expect(steps[0]!.notes.join()).toMatch(/^What is reduced is written anew: .* → .*\.$/);
    expect(overlay.occupancy.allocated(pool.id)).toBe(Math.ceil(storeOf(overlay, pool).bytes / pool.extentSize));
    expect(storeOf(overlay, pool).bytes).toBeGreaterThan(storeOf(demo, before).bytes);
    sound(overlay);
  });

  test('is refused another setting where the pool has no room for it, with how much is lacking', () => {
    const view = new Overlay(demo);
    const pool = named(view, 'pool', 'quay');
    // Nothing is free but what the reserve keeps.
    for (const group of [...view.table('raidGroup').by('pool', pool.id)])
      view.apply([changed('raidGroup', group, { draining: true })]);
    const { refusals } = plan(view, { do: 'pool.configure', array: 'lintel-1', name: 'quay', compression: false });
    expect(refusals).toMatchObject([
      { code: 'pool-too-small', field: 'compression', offer: { do: 'pool.extend', params: { name: 'quay' } } },
    ]);
    expect(refusals[0]!.message).toMatch(/ are lacking\.$/);
  });

  test('grows by pages that come back into it, though its pool reduces nothing new', () => {
    const view = new Overlay(demo);
    const volume = [...view.table('volume').values()].find(
      (row) => row.reducedTo > 2 ** 30 && row.provisioning === 'thin',
    )!;
    const pool = view.table('pool').get(volume.pool)!;
    const hole = { ...volume, holes: [[0, 2 ** 28]] as [number, number][] };
    view.apply([changed('volume', volume, { holes: hole.holes })]);
    view.apply([changed('pool', pool, { compression: false, dedupe: 'off' })]);
    const held = () => view.occupancy.allocated(pool.id);
    const before = storeOf(view, view.table('pool').get(pool.id)!).bytes;
    const written = writeRuns(view, view.table('volume').get(volume.id)!, [[0, 2 ** 28]], newIds('w'), 0);
    expect(written).toMatchObject({ missing: 0, full: false });
    view.apply(compacted(written.effects));
    const after = storeOf(view, view.table('pool').get(pool.id)!).bytes;
    expect(after).toBeGreaterThan(before);
    expect(held()).toBe(Math.ceil(after / pool.extentSize));
  });

  test('does not drift beyond what its pool has room for', () => {
    const view = new Overlay(demo);
    const volume = [...view.table('volume').values()].find((row) => row.content.common > 0 && row.reducedTo > 0)!;
    view.apply([changed('volume', volume, { content: { ...volume.content, driftDays: 1 } })]);
    for (const group of [...view.table('raidGroup').by('pool', volume.pool)])
      view.apply([changed('raidGroup', group, { draining: true })]);
    for (let day = 1; day < 60; day++) view.apply(compacted(nightly(view, day * DAY, newIds(`night ${day}`)).effects));
    const pool = view.table('pool').get(volume.pool)!;
    expect(view.occupancy.allocated(pool.id)).toBe(Math.ceil(storeOf(view, pool).bytes / pool.extentSize));
  });
});

describe('zone sets', () => {
  const idle = (): Overlay => {
    const view = new Overlay(demo);
    const fabric = named(view, 'fabric', 'A');
    view.apply([changed('fabric', fabric, { activeSet: null })]);
    return view;
  };
  const second: OperationDocument = { do: 'zone-set.create', fabric: 'A', name: 'spare_set' };
  const zone: OperationDocument = {
    do: 'zone.create',
    fabric: 'A',
    name: 'late_zone',
    members: ['50:00:0a:66:d4:00:00:01'],
  };

  test('of which two lie idle must be told apart', () => {
    const { refusals } = plan(idle(), second, zone);
    expect(refusals).toMatchObject([{ code: 'zone-set-unclear', operation: 1, offer: { do: 'zone-set.activate' } }]);
    expect(refusals[0]!.message).toContain('spare_set');
    expect(plan(idle(), second, { ...zone, zoneSet: 'spare_set' }).refusals).toEqual([]);
    expect(plan(idle(), zone).refusals).toEqual([]);
    const join = { do: 'zoning.join', fabric: 'A', host: 'ledger-1', array: 'lintel-1' };
    expect(plan(idle(), second, join).refusals.map((one) => one.code)).toContain('zone-set-unclear');
  });

  test('do not go on naming a zone that a parting takes away', () => {
    const fabric = named(demo, 'fabric', 'A');
    const all = [...demo.table('zone').by('fabric', fabric.id)].map((row) => row.name);
    const { refusals, overlay } = plan(
      demo,
      { do: 'zone-set.create', fabric: 'A', name: 'copy_set', zones: [...all, all[0]!] },
      { do: 'zoning.part', fabric: 'A', host: 'keel-backup', array: 'purlin-1' },
    );
    // Where something is mounted the parting is refused; the demo has one host that may be parted.
    if (refusals.length > 0) expect(refusals[0]!.code).toBe('in-use');
    sound(overlay);
    const copy = named(overlay, 'zoneSet', 'copy_set');
    expect(new Set(copy.zones).size).toBe(copy.zones.length);
    for (const id of copy.zones) expect(overlay.table('zone').get(id)).toBeDefined();
  });
});

describe('ports that join a host', () => {
  test('called like one of its own get a name of their own', () => {
    const free = [...demo.table('interface').by('unclaimed', '')][0]!;
    const { steps, refusals, overlay } = plan(demo, {
      do: 'host.create',
      name: 'ticket-9',
      os: 'linux',
      site: 'Nordkai',
      initiators: [free.wwpn!],
      interfaces: [{ name: free.name, addresses: ['10.40.1.190/24'] }],
    });
    expect(refusals).toEqual([]);
    const host = named(overlay, 'host', 'ticket-9');
    const names = overlay
      .table('interface')
      .by('host', host.id)
      .map((row) => row.name);
    expect(names).toHaveLength(2);
    expect(new Set(names).size).toBe(2);
    expect(steps[0]!.notes.join()).toMatch(/was called hba\d, as another port of the host is: it is hba\d now/);
    sound(overlay);
  });

  test('must be called differently, whatever the capitals', () => {
    const twins = ['eth0', 'ETH0'].map((name, k) => ({ name, addresses: [`10.40.1.${190 + k}/24`] }));
    const { refusals } = plan(demo, { do: 'host.create', name: 'x', os: 'linux', site: 'Nordkai', interfaces: twins });
    expect(refusals.map((one) => one.code)).toEqual(['interface-twice']);
  });
});

test('an initiator is not given the name of another of its host', () => {
  const estate = estateAfter(smallChain);
  carryOut(estate, [
    {
      do: 'host.configure',
      host: 'gate-1',
      initiators: ['iqn.2031-04.example.skarholt:gate-1', 'iqn.2031-04.example.skarholt:gate-1b'],
    },
  ]);
  const { refusals } = plan(estate, {
    do: 'initiator.configure',
    host: 'gate-1',
    initiator: 'iqn.2031-04.example.skarholt:gate-1b',
    newName: 'iqn.2031-04.example.skarholt:gate-1',
  });
  expect(refusals).toMatchObject([{ code: 'duplicate-host-name', offer: { do: 'host.configure' } }]);
});

test('a change holds no more operations and units than a person could look through', () => {
  const rescans = Array.from({ length: 2001 }, () => ({ do: 'host.rescan', host: 'gate-1' }));
  expect(plan(demo, ...rescans).refusals[0]).toMatchObject({ code: 'change-too-large' });
  const carve = (k: number) => ({
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'quay',
    name: `v${k}-#`,
    size: '64 MiB',
    count: 1000,
  });
  const many = plan(demo, ...Array.from({ length: 7 }, (_, k) => carve(k)));
  expect(many.steps.length).toBeLessThanOrEqual(5000);
  expect(many.refusals[0]).toMatchObject({ code: 'change-too-large', operation: 5 });
  expect(many.refusals[0]!.message).toContain('more than 5000 steps');
});
