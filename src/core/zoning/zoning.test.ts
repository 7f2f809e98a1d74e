import { demoEstate } from '../../../demo/scenario';
import { changed } from '../estate/effects';
import { Overlay, type EstateView } from '../estate/estate';
import { contextFor, planChange } from '../change/plan';
import { operationType, type OperationDocument } from '../change/registry';
import { zoneBook } from '../fabric/zoning';
import { fcDevices } from '../fabric/devices';
import { brokenRules } from '../rules/book';

const { estate: demo } = demoEstate();
const BASIS = { seed: 'zoning', now: 1_934_000_000_000, month: '2031-04' };
const plan = (view: EstateView, ...operations: OperationDocument[]) => planChange(view, operations, BASIS);
const codes = (view: EstateView, ...operations: OperationDocument[]) =>
  plan(view, ...operations).refusals.map((refusal) => refusal.code);
/** The estate after operations that none refuses. */
function after(view: EstateView, ...operations: OperationDocument[]): Overlay {
  const { refusals, overlay } = plan(view, ...operations);
  expect(refusals).toEqual([]);
  expect(brokenRules(overlay)).toEqual([]);
  return overlay;
}
const fabricA = [...demo.table('fabric').values()].find((row) => row.name === 'A')!;
const inA = <K extends 'alias' | 'zone' | 'zoneSet' | 'activeZone'>(view: EstateView, kind: K, name: string) =>
  view
    .table(kind)
    .by('fabric', fabricA.id)
    .find((row) => row.name === name);
const foretold = (view: EstateView, kind: string, draft: Record<string, unknown>) =>
  operationType(kind)!.foretell(view, draft, contextFor(BASIS, 0, 0)).fields;
const PORT = '50:00:0a:66:d4:00:00:01';
const KEPT = 'wwpn:50000a66d4000001';

describe('an alias', () => {
  const make: OperationDocument = { do: 'alias.create', fabric: 'A', name: 'late_hba0', members: [PORT] };

  test('stands for ports, written as the fabric keeps them', () => {
    const view = after(demo, make);
    expect(inA(view, 'alias', 'late_hba0')).toMatchObject({ fabric: fabricA.id, members: [KEPT] });
    expect(plan(demo, make).steps[0]).toMatchObject({ device: { kind: 'fabric', name: 'fabric A' }, takes: 1000 });
  });

  test.each<[string, object]>([
    ['name-taken', { name: 'cargo-db-1_hba0' }],
    ['bad-zone-name', { name: '9late' }],
    ['fabric-unknown', { fabric: 'Z' }],
    ['parameter-wrong', { members: [] }],
  ])('is refused: %s', (code, more) => {
    const taken = more as { name?: string };
    if (taken.name === 'cargo-db-1_hba0')
      taken.name = [...demo.table('alias').by('fabric', fabricA.id)][0]!.name.toUpperCase();
    expect(codes(demo, { ...make, ...more })).toContain(code);
  });

  test('that is renamed is renamed in the zones that use it', () => {
    const used = [...demo.table('zone').by('fabric', fabricA.id)]
      .flatMap((zone) => [...zone.members, ...zone.principals])
      .find((member) => member.startsWith('alias:'))!
      .slice(6);
    const users = (view: EstateView, name: string) =>
      view
        .table('zone')
        .by('fabric', fabricA.id)
        .filter((zone) => [...zone.members, ...zone.principals].includes(`alias:${name}`)).length;
    const before = users(demo, used);
    const view = after(demo, { do: 'alias.configure', fabric: 'A', name: used, newName: 'renamed' });
    expect(before).toBeGreaterThan(0);
    expect([users(view, used), users(view, 'renamed')]).toEqual([0, before]);
    expect(inA(view, 'alias', 'renamed')!.members).toEqual(inA(demo, 'alias', used)!.members);
    expect(codes(demo, { do: 'alias.delete', fabric: 'A', name: used })).toEqual(['alias-in-use']);
    const other = plan(demo, { do: 'alias.configure', fabric: 'A', name: used, members: [PORT] });
    expect(other.steps[0]!.notes.join()).toMatch(/activate the zone set for it to count/);
    expect(inA(other.overlay, 'alias', used)!.members).toEqual([KEPT]);
  });

  test('that nobody uses can be dropped', () => {
    const view = after(demo, make, { do: 'alias.delete', fabric: 'A', name: 'late_hba0' });
    expect(inA(view, 'alias', 'late_hba0')).toBeUndefined();
    expect(codes(demo, { do: 'alias.delete', fabric: 'A', name: 'late_hba0' })).toEqual(['alias-unknown']);
  });

  test('is foretold: who can be named, and what follows', () => {
    expect(foretold(demo, 'alias.create', { fabric: 'A', members: [PORT, PORT] }).members!.says).toBe(
      'Zones that use it name these 2 ports.',
    );
    const fields = foretold(demo, 'alias.create', { fabric: 'A' });
    expect(fields.fabric!.choices!.map((choice) => choice.value)).toEqual(['A', 'B']);
    expect(fields.members!.choices!.length).toBeGreaterThan(3);
    expect(fields.members!.says).toBe('Which port it stands for.');
    const present = [...demo.table('alias').by('fabric', fabricA.id)][0]!;
    const change = foretold(demo, 'alias.configure', { fabric: 'A', name: present.name });
    expect(change.members!.suggested).toHaveLength(present.members.length);
  });
});

describe('a zone', () => {
  const make: OperationDocument = { do: 'zone.create', fabric: 'A', name: 'late_zone', members: [PORT] };

  test('goes into the active set, and counts when that is activated', () => {
    const view = after(demo, make);
    const zone = inA(view, 'zone', 'late_zone')!;
    expect(zone).toMatchObject({ kind: 'ordinary', members: [KEPT], principals: [] });
    expect(inA(view, 'zoneSet', fabricA.activeSet!)!.zones).toContain(zone.id);
    expect(inA(view, 'activeZone', 'late_zone')).toBeUndefined();
    const active = after(view, { do: 'zone-set.activate', fabric: 'A', zoneSet: fabricA.activeSet! });
    expect(inA(active, 'activeZone', 'late_zone')).toMatchObject({ members: [KEPT] });
    expect(plan(demo, make).steps[0]!.next).toMatchObject([{ do: 'zone-set.activate' }]);
  });

  test('of the peer kind needs a principal', () => {
    expect(codes(demo, { ...make, kind: 'peer' })).toEqual(['peer-without-principal']);
    const view = after(demo, { ...make, kind: 'peer', principals: ['50:00:0a:66:d4:00:00:02'] });
    expect(inA(view, 'zone', 'late_zone')).toMatchObject({
      kind: 'peer',
      principals: ['wwpn:50000a66d4000002'],
    });
  });

  test('is active anew when only its principals changed, or only its kind', () => {
    const peer = { ...make, kind: 'peer', principals: ['50:00:0a:66:d4:00:00:02'] };
    const activate = { do: 'zone-set.activate', fabric: 'A', zoneSet: fabricA.activeSet! };
    const other = after(demo, peer, activate, {
      do: 'zone.configure',
      fabric: 'A',
      name: 'late_zone',
      principals: ['50:00:0a:66:d4:00:00:03'],
    });
    expect(inA(other, 'activeZone', 'late_zone')).toMatchObject({ principals: ['wwpn:50000a66d4000002'] });
    const again = after(
      demo,
      peer,
      activate,
      {
        do: 'zone.configure',
        fabric: 'A',
        name: 'late_zone',
        principals: ['50:00:0a:66:d4:00:00:03'],
      },
      activate,
    );
    expect(inA(again, 'activeZone', 'late_zone')).toMatchObject({ principals: ['wwpn:50000a66d4000003'] });
  });

  test('names only aliases that are there', () => {
    expect(codes(demo, { ...make, members: ['no_such_alias'] })).toEqual(['alias-undefined']);
  });

  test('that changes keeps what is not named', () => {
    const view = after(demo, make, { do: 'zone.configure', fabric: 'A', name: 'late_zone', newName: 'later_zone' });
    expect(inA(view, 'zone', 'later_zone')).toMatchObject({ members: [KEPT], kind: 'ordinary' });
    expect(inA(view, 'zone', 'late_zone')).toBeUndefined();
    expect(inA(view, 'zoneSet', fabricA.activeSet!)!.zones).toContain(inA(view, 'zone', 'later_zone')!.id);
    const members = after(view, {
      do: 'zone.configure',
      fabric: 'A',
      name: 'later_zone',
      members: [PORT, '50:00:0a:66:d4:00:00:03'],
    });
    expect(inA(members, 'zone', 'later_zone')!.members).toEqual([KEPT, 'wwpn:50000a66d4000003']);
  });

  test('that goes leaves every set, with its aliases where nothing else uses them', () => {
    const alias: OperationDocument = { do: 'alias.create', fabric: 'A', name: 'late_hba0', members: [PORT] };
    const view = after(
      demo,
      alias,
      { ...make, members: ['late_hba0'] },
      { do: 'zone-set.create', fabric: 'A', name: 'other_set', zones: ['late_zone'] },
    );
    const zone = inA(view, 'zone', 'late_zone')!;
    expect(inA(view, 'zoneSet', 'other_set')!.zones).toEqual([zone.id]);
    const kept = after(view, { do: 'zone.delete', fabric: 'A', name: 'late_zone' });
    expect(inA(kept, 'alias', 'late_hba0')).toBeDefined();
    const gone = after(view, { do: 'zone.delete', fabric: 'A', name: 'late_zone', aliases: true });
    expect(inA(gone, 'alias', 'late_hba0')).toBeUndefined();
    for (const set of gone.table('zoneSet').by('fabric', fabricA.id)) expect(set.zones).not.toContain(zone.id);
    const shared = after(view, { ...make, name: 'second_zone', members: ['late_hba0'] });
    const still = after(shared, { do: 'zone.delete', fabric: 'A', name: 'late_zone', aliases: true });
    expect(inA(still, 'alias', 'late_hba0')).toBeDefined();
  });

  test('is foretold with how many meet in it', () => {
    const pair = [...demo.table('activeZone').by('fabric', fabricA.id)][0]!;
    const texts = pair.members.map((member) => member.slice(5));
    const { members, zoneSet } = foretold(demo, 'zone.create', { fabric: 'A', members: texts });
    expect(members!.says).toMatch(/^1 initiator, \d+ targets? logged in\.$/);
    expect(zoneSet!.suggested).toBe(fabricA.activeSet);
    const change = foretold(demo, 'zone.configure', { fabric: 'A', name: pair.name });
    expect(change.zoneSet).toBeUndefined();
    expect((change.members!.suggested as string[]).length).toBeGreaterThan(1);
  });
});

describe('a zone set', () => {
  const make: OperationDocument = { do: 'zone-set.create', fabric: 'A', name: 'night_set' };

  test('is made, filled, emptied and dropped; the active one stays', () => {
    const [zone] = [...demo.table('zone').by('fabric', fabricA.id)];
    const view = after(demo, { ...make, zones: [zone!.name] });
    expect(inA(view, 'zoneSet', 'night_set')!.zones).toEqual([zone!.id]);
    const empty = after(view, { do: 'zone-set.configure', fabric: 'A', name: 'night_set', zones: [] });
    expect(inA(empty, 'zoneSet', 'night_set')!.zones).toEqual([]);
    expect(codes(empty, { do: 'zone-set.activate', fabric: 'A', zoneSet: 'night_set' })).toEqual(['zone-set-empty']);
    expect(
      inA(after(view, { do: 'zone-set.delete', fabric: 'A', name: 'night_set' }), 'zoneSet', 'night_set'),
    ).toBeUndefined();
    expect(codes(demo, { do: 'zone-set.delete', fabric: 'A', name: fabricA.activeSet! })).toEqual(['zone-set-active']);
    expect(codes(view, { ...make })).toEqual(['name-taken']);
    expect(codes(demo, { ...make, zones: ['no_such_zone'] })).toEqual(['zone-unknown']);
  });

  test('that would cut a mounted host off is not activated', () => {
    const mounted = [...demo.table('hostDevice').values()].filter((row) => row.mountPoint);
    const host = mounted.map((row) => demo.table('host').get(row.host)!).find((row) => row.name.startsWith('cargo'))!;
    // The other fabric lies still: this one carries the last paths.
    const view = new Overlay(demo);
    for (const at of [...view.table('switch').values()])
      if (at.fabric !== fabricA.id) view.apply([changed('switch', at, { state: 'down' })]);
    const other = [...demo.table('zone').by('fabric', fabricA.id)].filter((zone) => !zone.name.startsWith(host.name));
    const set = { ...make, zones: other.map((zone) => zone.name) };
    expect(codes(view, set, { do: 'zone-set.activate', fabric: 'A', zoneSet: 'night_set' })).toEqual(['in-use']);
    const whole = { ...make, zones: [...demo.table('zone').by('fabric', fabricA.id)].map((zone) => zone.name) };
    const { refusals } = plan(demo, whole, { do: 'zone-set.activate', fabric: 'A', zoneSet: 'night_set' });
    expect(refusals).toEqual([]);
  });
});

describe('joining and parting', () => {
  const join: OperationDocument = { do: 'zoning.join', fabric: 'A', host: 'keel-backup', array: 'lintel-1' };
  const reaches = (view: EstateView, host: string, array: string): string[] => {
    const devices = fcDevices(view).filter((one) => one.fabric === fabricA.id);
    const from = devices.filter((one) => one.ownerName === host && one.role === 'initiator');
    const to = devices.filter((one) => one.ownerName === array && one.role === 'target');
    const book = zoneBook(view, fabricA.id);
    return to.filter((target) => from.some((one) => book.mayTalk(one, target))).map((one) => one.name);
  };

  test('takes of each controller the port with the fewest initiators', () => {
    const fanIn = (name: string): number => {
      const target = fcDevices(demo).find((one) => one.ownerName === 'lintel-1' && one.name === name)!;
      return demo
        .table('activeZone')
        .by('fabric', fabricA.id)
        .filter((zone) => zone.members.includes(`wwpn:${target.wwpn}`)).length;
    };
    const here = fcDevices(demo)
      .filter((one) => one.fabric === fabricA.id && one.ownerName === 'lintel-1')
      .map((one) => one.name);
    const view = after(demo, join);
    const got = reaches(view, 'keel-backup', 'lintel-1').sort();
    const wanted = ['a', 'b'].map(
      (controller) =>
        here.filter((name) => name.startsWith(controller)).sort((a, b) => fanIn(a) - fanIn(b) || (a < b ? -1 : 1))[0],
    );
    expect(reaches(demo, 'keel-backup', 'lintel-1')).toEqual([]);
    expect(got).toEqual(wanted);
  });

  test('takes the ports that are named, and leaves everybody else as they were', () => {
    const view = after(demo, { ...join, ports: ['a0'] });
    expect(reaches(view, 'keel-backup', 'lintel-1')).toEqual(['a0']);
    for (const host of [...demo.table('host').values()])
      if (host.name !== 'keel-backup')
        expect(reaches(view, host.name, 'lintel-1')).toEqual(reaches(demo, host.name, 'lintel-1'));
    expect(plan(demo, { ...join, ports: ['a0'] }).steps[0]!.title).toMatch(
      /^Join keel-backup with lintel-1 in fabric A: 1 pair/,
    );
  });

  test('of a cluster joins all its members', () => {
    const view = after(demo, { do: 'zoning.join', fabric: 'A', cluster: 'deck', array: 'purlin-1' });
    for (const host of ['deck-1', 'deck-2', 'deck-3', 'deck-4'])
      expect([host, reaches(view, host, 'purlin-1').length]).toEqual([host, 2]);
  });

  test('parting undoes what joining did, and is refused where it would cut a mounted host off', () => {
    const there = after(demo, join);
    const back = after(there, { do: 'zoning.part', fabric: 'A', host: 'keel-backup', array: 'lintel-1' });
    expect(reaches(back, 'keel-backup', 'lintel-1')).toEqual([]);
    expect(reaches(back, 'keel-backup', 'purlin-1')).toEqual(reaches(demo, 'keel-backup', 'purlin-1'));
    const view = new Overlay(demo);
    for (const at of [...view.table('switch').values()])
      if (at.fabric !== fabricA.id) view.apply([changed('switch', at, { state: 'down' })]);
    expect(codes(view, { do: 'zoning.part', fabric: 'A', host: 'cargo-db-1', array: 'lintel-1' })).toEqual(['in-use']);
  });

  test('a host without a port in the fabric, and an array without one, are told apart', () => {
    const gate = plan(demo, { ...join, host: 'gate-1' }).refusals[0]!;
    expect([gate.code, gate.field]).toEqual(['no-port-in-fabric', 'host']);
    const none = plan(demo, { ...join, ports: ['a4'] }).refusals[0]!;
    expect([none.code, none.field]).toEqual(['no-port-in-fabric', 'ports']);
  });
});

describe('a fabric', () => {
  test('takes what is named and keeps the rest', () => {
    const view = after(demo, {
      do: 'fabric.configure',
      fabric: 'A',
      defaultZone: 'permit',
      zonePattern: '<array>__<host>_<hostport>',
    });
    expect(view.table('fabric').get(fabricA.id)).toEqual({
      ...fabricA,
      defaultZone: 'permit',
      zonePattern: '<array>__<host>_<hostport>',
    });
  });
});
