import fc from 'fast-check';
import { iqn } from '../../../demo/names';
import { basis, carryOut, estateAfter, mapped, mounted, named, targetOf } from '../../../demo/workbench';
import { pathFinder } from '../attach/paths';
import { readOnlyWhy } from '../attach/write-access';
import { planChange } from '../change/plan';
import type { OperationDocument } from '../change/registry';
import { changed, created } from '../estate/effects';
import { rowOf, type Rows } from '../estate/entities';
import type { Estate } from '../estate/estate';
import { trace } from '../trace/trace';
import { targetView } from '../trace/target-view';
import { discoveredTargets } from './discovery';
import { loginRefusal } from './login';
import { agreedConnections, grantOf, lookUpTarget, portalsOf, portalText } from './target';

const change = (estate: Estate, fields: Partial<Rows['target']>, array = 'lintel-1') =>
  estate.apply([changed('target', targetOf(estate, array), fields)]);
const host = (estate: Estate) => named(estate, 'host', 'gate-1');
const refusal = (estate: Estate) => loginRefusal(estate, host(estate), targetOf(estate, 'lintel-1'));
const codes = (estate: Estate, ...operations: OperationDocument[]) =>
  planChange(estate, operations, basis).refusals.map(({ code, field }) => `${code} ${field}`);
const said = (estate: Estate, operation: OperationDocument) => planChange(estate, [operation], basis).steps[0]!;
const other: OperationDocument = { do: 'target.create', array: 'lintel-1', name: 'night' };
const reasons = (estate: Estate, volume: string) =>
  pathFinder(estate)
    .paths(estate.table('mapping').by('volume', named(estate, 'volume', volume).id)[0]!)
    .missing.map((gap) => gap.reason);

describe('who may connect', () => {
  const from = { addresses: [{ ip: '10.40.1.51', prefix: 24 }] };
  const granted = (rules: Rows['target']['rules'], more: Partial<Rows['target']> = {}) => {
    const estate = estateAfter(mapped);
    return grantOf(
      { ...targetOf(estate, 'lintel-1'), rules, ...more },
      { name: iqn('gate-1'), host: host(estate), from },
    );
  };
  const rule = (who: string, level: 'read-write' | 'read-only' | 'none', auth: null | 'mutual' = null) => ({
    who,
    level,
    auth,
  });
  test.each([
    ['nothing named', [], 'read-write', null],
    ['a prefix it lies in', [rule('10.40.1.0/24', 'none')], 'none', '10.40.1.0/24'],
    ['a prefix it lies not in', [rule('10.40.2.0/24', 'none')], 'read-write', null],
    [
      'the longer prefix',
      [rule('10.40.0.0/16', 'none'), rule('10.40.1.0/24', 'read-only')],
      'read-only',
      '10.40.1.0/24',
    ],
    [
      'its address before its prefix',
      [rule('10.40.1.0/24', 'none'), rule('10.40.1.51', 'read-only')],
      'read-only',
      '10.40.1.51',
    ],
    ['its host before its address', [rule('10.40.1.51', 'none'), rule('Gate-1', 'read-only')], 'read-only', 'Gate-1'],
    [
      'its own name before all',
      [rule('gate-1', 'none'), rule(iqn('gate-1'), 'read-write')],
      'read-write',
      iqn('gate-1'),
    ],
  ] as const)('%s', (_, rules, level, by) => expect(granted([...rules])).toEqual({ level, auth: 'none', by }));
  test('an exception may demand another proof; what it leaves open is the target’s', () => {
    expect(granted([rule('gate-1', 'read-write', 'mutual')]).auth).toBe('mutual');
    expect(granted([rule('gate-1', 'read-write')], { auth: 'one-way' }).auth).toBe('one-way');
  });
  test('the order of exceptions does not matter', () =>
    fc.assert(
      fc.property(
        fc.uniqueArray(
          fc.constantFrom(
            '10.0.0.0/8',
            '10.40.0.0/16',
            '10.40.1.0/24',
            '10.40.1.51',
            'gate-1',
            iqn('gate-1'),
            '192.168.0.0/16',
          ),
        ),
        fc.array(fc.constantFrom('read-write', 'read-only', 'none'), { minLength: 7, maxLength: 7 }),
        (names, levels) => {
          const rules = names.map((who, k) => rule(who, levels[k] as 'none'));
          expect(granted(rules)).toEqual(granted([...rules].reverse()));
        },
      ),
      { numRuns: 40 },
    ));
  test('whom nothing is granted is turned away, by the rule that does it', () => {
    const estate = estateAfter(mapped);
    change(estate, { usual: 'none' });
    expect(refusal(estate)).toMatchObject({ reason: 'access-none', status: '0202' });
    expect(refusal(estate)!.message).toContain('lets in only whom it names');
    change(estate, { usual: 'read-write', rules: [rule('10.40.1.0/24', 'none')] });
    // One interface of two lies there: half of the sessions are gone.
    expect(reasons(estate, 'tickets-1')).toEqual(['access-none', 'access-none']);
    expect(trace(estate, host(estate), named(estate, 'volume', 'tickets-1')).hops[10]).toMatchObject({
      state: 'warn',
      reason: 'access-none',
    });
    change(estate, { rules: [rule('gate-1', 'none')] });
    expect(refusal(estate)!.message).toContain('keeps gate-1 out by its rule for gate-1');
  });
  test('anyone may be let in, and that is found', () => {
    const estate = estateAfter(mapped);
    estate.apply([changed('host', host(estate), { presents: iqn('gate-l') })]);
    expect(refusal(estate)!.reason).toBe('initiator-unknown');
    change(estate, { anyone: true });
    expect(refusal(estate)).toBeNull();
  });
  test('who sends no name misses a parameter', () => {
    const estate = estateAfter(mapped);
    estate.apply([changed('host', host(estate), { presents: null })]);
    expect(refusal(estate)).toMatchObject({ reason: 'no-initiator', status: '0207' });
  });
  test('an account of the target holds before what stands on record', () => {
    const estate = estateAfter(mapped);
    estate.apply([changed('host', host(estate), { chapSecret: 'one' })]);
    change(estate, { auth: 'one-way' });
    expect(refusal(estate)!.reason).toBe('chap-failed');
    change(estate, { accounts: [{ name: iqn('gate-1'), secret: 'one' }] });
    expect(refusal(estate)).toBeNull();
    change(estate, { accounts: [{ name: iqn('gate-1'), secret: 'two' }] });
    expect(refusal(estate)!.reason).toBe('chap-failed');
  });
  test('read-only by an exception is foretold for what is mounted', () => {
    const estate = estateAfter(mounted);
    const step = said(estate, { do: 'target.configure', array: 'lintel-1', exceptions: ['gate-1 read-only'] });
    expect(step.notes.join(' ')).toContain('has tickets-1 mounted at /srv/tickets');
  });
});

describe('targets of their own', () => {
  const through: OperationDocument[] = [
    other,
    { do: 'mapping.delete', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-2'] },
    { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-2'], target: 'night' },
  ];
  const made = () => {
    const estate = estateAfter(mapped);
    carryOut(estate, through);
    return estate;
  };
  test('have LUNs, paths and an off switch of their own', () => {
    const estate = made();
    const [mapping] = estate.table('mapping').by('volume', named(estate, 'volume', 'tickets-2').id);
    expect(mapping).toMatchObject({ lun: 0, target: named(estate, 'target', 'night').id });
    expect(pathFinder(estate).count(mapping!)).toMatchObject({ usable: 4, expected: 4 });
    carryOut(estate, [{ do: 'target.configure', array: 'lintel-1', name: 'night', enabled: false }]);
    expect(pathFinder(estate).count(mapping!).usable).toBe(0);
    expect(reasons(estate, 'tickets-1')).toEqual([]);
    const broken = trace(estate, host(estate), named(estate, 'volume', 'tickets-2')).hops.find(
      (hop) => hop.state === 'fail',
    );
    expect(broken).toMatchObject({ number: 6, reason: 'target-disabled' });
    expect(broken!.mend).toMatchObject({ do: 'target.configure', params: { name: 'night', enabled: true } });
  });
  test('a mapping moves from one to another, with a number that is free there, and never under a mount', () => {
    const estate = estateAfter([...mapped, other]);
    const move = (volume: string, more = {}) => ({
      do: 'mapping.configure',
      host: 'gate-1',
      array: 'lintel-1',
      volume,
      target: 'night',
      ...more,
    });
    const lunOf = (volume: string) => {
      const { lun, target } = estate.table('mapping').by('volume', named(estate, 'volume', volume).id)[0]!;
      return [lun, target === null ? 'own' : estate.table('target').get(target)!.name];
    };
    expect(said(estate, move('tickets-1')).title).toBe('tickets-1 at gate-1: shown by target night');
    carryOut(estate, [move('tickets-1')], 'forth');
    expect(lunOf('tickets-1')).toEqual([0, 'night']);
    // tickets-2 is LUN 1 at the array's own; at the other it may have that number, but not 0.
    expect(codes(estate, move('tickets-2', { lun: 0 }))).toEqual(['lun-taken lun']);
    const { name } = named(estate, 'target', 'night');
    expect(codes(estate, move('tickets-2'), { do: 'target.delete', array: 'lintel-1', name })).toHaveLength(1);
    const main = targetOf(estate, 'lintel-1').name;
    carryOut(estate, [move('tickets-1', { target: main })], 'back');
    expect(lunOf('tickets-1')).toEqual([0, 'own']);
    expect(codes(estateAfter([...mounted, other]), move('tickets-1'))).toEqual(['in-use target']);
  });
  test('exceptions follow an initiator to its new name, whichever form changed it', () => {
    const estate = estateAfter(mapped);
    change(estate, { rules: [{ who: iqn('gate-1'), level: 'read-only', auth: null }] });
    const who = () => targetOf(estate, 'lintel-1').rules.map((rule) => rule.who);
    carryOut(
      estate,
      [{ do: 'initiator.configure', host: 'gate-1', initiator: iqn('gate-1'), newName: iqn('gate-one') }],
      'one',
    );
    expect(who()).toEqual([iqn('gate-one')]);
    carryOut(
      estate,
      [{ do: 'host.configure', host: 'gate-1', newName: 'gate-x', initiators: [iqn('gate-two')] }],
      'two',
    );
    expect(who()).toEqual([iqn('gate-two')]);
    expect(named(estate, 'host', 'gate-x').name).toBe('gate-x');
  });
  test('who is connected is seen session by session', () => {
    const lines = targetView(made()).targets.filter((one) => one.array === 'lintel-1');
    expect(lines.map((one) => [one.name, one.main, one.connected.length, one.volumes])).toEqual([
      ['main', true, 4, []],
      ['night', false, 4, ['tickets-2']],
    ]);
    expect(lines[1]!.connected[0]).toMatchObject({ host: 'gate-1', connections: 1 });
  });
  test('answer only where they are told to, at their own TCP port and group', () => {
    const estate = made();
    carryOut(estate, [{ do: 'target.configure', array: 'lintel-1', name: 'night', portals: ['a4:3261 7'] }]);
    const target = named(estate, 'target', 'night');
    expect(portalsOf(estate, target).map(({ port, tcp, group }) => [port.name, tcp, group])).toEqual([['a4', 3261, 7]]);
    const [mapping] = estate.table('mapping').by('volume', named(estate, 'volume', 'tickets-2').id);
    expect(pathFinder(estate).count(mapping!)).toMatchObject({ usable: 1, expected: 1 });
    const found = discoveredTargets(estate, host(estate), target.array);
    expect(found.find((one) => one.target.id === target.id)).toMatchObject({
      offered: true,
      portals: [{ group: 7, reached: true }],
    });
    expect(
      codes(estate, {
        do: 'mapping.create',
        host: 'gate-1',
        array: 'lintel-1',
        volumes: ['tickets-1'],
        target: 'night',
        ports: ['b4'],
      }),
    ).toContain('port-not-of-target ports');
  });
  test('take so many sessions and no more: the first host by name has them', () => {
    const estate = made();
    carryOut(estate, [{ do: 'target.configure', array: 'lintel-1', name: 'night', sessionLimit: '3' }]);
    const [mapping] = estate.table('mapping').by('volume', named(estate, 'volume', 'tickets-2').id);
    const paths = pathFinder(estate).paths(mapping!);
    expect([paths.usable, paths.missing.map((gap) => [gap.reason, gap.status])]).toEqual([
      3,
      [['session-limit', '0302']],
    ]);
  });
  test('a host can be told to log in at one alone', () => {
    const estate = made();
    estate.apply([changed('host', host(estate), { autoLogin: false })]);
    expect(reasons(estate, 'tickets-2')).toContain('not-logged-in');
    carryOut(estate, [{ do: 'host.login', host: 'gate-1', array: 'lintel-1', target: 'night' }]);
    expect([reasons(estate, 'tickets-2'), [...new Set(reasons(estate, 'tickets-1'))]]).toEqual([[], ['not-logged-in']]);
  });
  test.each<[string, OperationDocument]>([
    ['name-taken name', { ...other, name: 'MAIN' }],
    ['name-taken iqn', { ...other, iqn: iqn('lintel-1') }],
    ['name-taken iqn', { ...other, iqn: iqn('gate-1') }],
    ['bad-prefix iqn', { ...other, iqn: 'lintel' }],
    ['name-does-not-resolve exceptions', { ...other, exceptions: ['nobody read-only'] }],
    ['bad-exception exceptions', { ...other, exceptions: ['gate-1 some'] }],
    ['exception-twice exceptions', { ...other, exceptions: ['gate-1 none', 'gate-1 read-only'] }],
    ['bad-prefix exceptions', { ...other, exceptions: ['10.40.1.0/99 none'] }],
    ['port-unknown portals', { ...other, portals: ['z9'] }],
    ['port-role-off portals', { ...other, portals: ['a0'] }],
    ['bad-port portals', { ...other, portals: ['a4:70000'] }],
    ['chap-secret-missing chapSecret', { ...other, exceptions: ['gate-1 read-write mutual'] }],
    ['target-is-main name', { do: 'target.delete', array: 'lintel-1', name: 'main' }],
    ['in-use enabled', { do: 'target.configure', array: 'lintel-1', enabled: false }],
  ])('%s is refused', (code, operation) => expect(codes(estateAfter(mounted), operation)).toEqual([code]));
  test('one that shows a volume stays; an empty one goes with who was told to log in', () => {
    const estate = made();
    const drop: OperationDocument = { do: 'target.delete', array: 'lintel-1', name: 'night' };
    expect(codes(estate, drop)).toEqual(['still-mapped name']);
    carryOut(estate, [
      { do: 'mapping.delete', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-2'] },
      { do: 'host.login', host: 'gate-1', array: 'lintel-1', target: 'night' },
      drop,
    ]);
    expect([
      estate.table('target').by('array', named(estate, 'array', 'lintel-1').id).length,
      estate.table('login').size,
    ]).toEqual([1, 0]);
  });
  test('are found by array, by array and alias, and by name', () => {
    const estate = made();
    expect(
      ['lintel-1', 'lintel-1/night', iqn('lintel-1.night'), 'lintel-9', 'a/b/c'].map(
        (ref) => lookUpTarget(estate, ref)?.name,
      ),
    ).toEqual(['main', 'night', 'night', undefined, undefined]);
  });
});

test('discovery shows what a host may log in to, also portals it does not reach', () => {
  const estate = estateAfter(mapped);
  const array = named(estate, 'array', 'lintel-1').id;
  const found = () => discoveredTargets(estate, host(estate), array)[0]!;
  expect(found()).toMatchObject({ offered: true });
  expect(found().portals.every((one) => one.reached)).toBe(true);
  const port = named(estate, 'port', 'a4');
  estate.apply([changed('port', port, { addresses: [{ ip: '10.99.1.1', prefix: 24 }] })]);
  expect(
    found()
      .portals.filter((one) => !one.reached)
      .map((one) => one.address),
  ).toEqual(['10.99.1.1:3260']);
  change(estate, { auth: 'one-way' });
  expect(found().offered).toBe(true);
  change(estate, { usual: 'none' });
  expect(found().offered).toBe(false);
  change(estate, { usual: 'read-write' });
  estate.apply([
    changed('host', host(estate), { discovery: 'isns' }),
    created('nameServer', rowOf('nameServer', { id: 'isns_x', name: 'x', ip: '10.40.9.8', state: 'up' })),
  ]);
  expect(found().offered).toBe(false);
});

test('connections and portals as they are written', () => {
  expect(agreedConnections({ connections: 4 }, { maxConnections: 2 })).toBe(2);
  expect(portalText('2001:db8::11')).toBe('[2001:db8::11]:3260');
  expect(portalText('10.40.1.11', 3261)).toBe('10.40.1.11:3261');
});

test('only interfaces that reach the target decide whether a host may write', () => {
  const estate = estateAfter(mapped);
  const far = rowOf('interface', {
    id: 'if_far',
    host: host(estate).id,
    name: 'office0',
    addresses: [{ ip: '192.168.7.5', prefix: 24 }],
    mtu: 1500,
    state: 'up',
  });
  estate.apply([created('interface', far)]);
  const mapping = [...estate.table('mapping').values()][0]!;
  const rule = (who: string) => change(estate, { rules: [{ who, level: 'read-only', auth: null }] });
  rule('192.168.7.0/24');
  expect(readOnlyWhy(estate, mapping)).toBeNull();
  rule('10.40.1.0/24');
  expect(readOnlyWhy(estate, mapping)).toContain('which grants 10.40.1.0/24 reading only');
});

test('a rule for a host follows its name, and goes with it', () => {
  const estate = estateAfter(mapped);
  change(estate, { rules: [{ who: 'Gate-1', level: 'read-only', auth: null }] });
  const rules = () => targetOf(estate, 'lintel-1').rules.map((rule) => rule.who);
  carryOut(estate, [{ do: 'host.configure', host: 'gate-1', newName: 'gate-9' }], 'rename');
  expect(rules()).toEqual(['gate-9']);
  carryOut(
    estate,
    [
      { do: 'mapping.delete', host: 'gate-9', array: 'lintel-1', volumes: ['tickets-1', 'tickets-2'] },
      { do: 'host.delete', host: 'gate-9' },
    ],
    'drop',
  );
  expect(rules()).toEqual([]);
});
