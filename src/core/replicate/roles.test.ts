import fc from 'fast-check';
import { peerQuota } from '../copies/quota';
import { peerCheck, type PeerSeen } from './peer';
import { rto } from './recovery-time';
import { replicationRoles, type RoleEvent } from './roles';

const after = (...events: (string | RoleEvent)[]) =>
  replicationRoles({ events: events.map((one) => (typeof one === 'string' ? { e: one } : one)) });

describe('roles', () => {
  test('a failover over a lost link, and the way back', () => {
    const found = after(
      'start',
      'copied',
      'drillStart',
      'linkLost',
      { e: 'failover', confirmDataLoss: true },
      { e: 'failover', confirmDataLoss: true, confirmSourceFenced: true },
    );
    expect(found.log.slice(-2)).toEqual(['replication-confirm-source-fenced', 'ok']);
    expect(found).toMatchObject({ state: 'FAILED_OVER', hostAccess: { P: 'unknown', S: 'yes' } });
    const events: RoleEvent[] = [
      ...['start', 'copied', 'drillStart', 'linkLost'].map((e) => ({ e })),
      { e: 'failover', confirmDataLoss: true, confirmSourceFenced: true },
      { e: 'linkBack' },
      { e: 'reverse', confirmDiscard: true },
      { e: 'remove', confirmRemove: true },
    ];
    const back = replicationRoles({ events });
    expect(back).toMatchObject({
      state: 'COPYING',
      source: 'S',
      consistentImage: false,
      hostAccess: { P: 'no', S: 'yes' },
    });
    expect(back.log.at(-1)).toBe('replication-drill-active');
  });

  test('a switch that is cut off leaves the source in charge', () => {
    const cut = [
      { e: 'start', targetHasData: true },
      { e: 'start', targetHasData: true, confirmOverwrite: true },
      'copied',
      { e: 'switch', confirmHostsStopped: true },
      { e: 'siteLost', site: 'S' as const },
    ];
    expect(after(...cut)).toMatchObject({
      state: 'BROKEN',
      hostAccess: { P: 'yes', S: 'no' },
      log: ['replication-target-not-empty', 'ok', 'ok', 'ok', 'ok'],
    });
    expect(
      after(...cut, { e: 'siteBack', site: 'S' }, 'copied', {
        e: 'failover',
        sourceStopped: true,
        confirmDataLoss: true,
      }),
    ).toMatchObject({ state: 'FAILED_OVER', hostAccess: { P: 'no', S: 'yes' } });
  });

  test('what is removed hears of nothing but its sites; what nobody knows is refused', () => {
    const found = after({ e: 'remove', confirmRemove: true }, 'start', 'linkLost', 'toString');
    expect(found.log).toEqual(['ok', 'replication-removed', 'ok', 'replication-removed']);
    expect(after('constructor', { e: 'siteLost' }).log).toEqual(Array(2).fill('replication-unknown-event'));
  });

  const names = [
    'start copied pause resume switch switched switchFailed failover reverse undo drillStart drillStop remove',
    'linkLost linkBack siteLost siteBack',
  ].flatMap((line) => line.split(' '));
  const event = fc.record({
    e: fc.constantFrom(...names.filter((name) => name !== 'remove'), 'copied', 'failover', 'switch', 'switched'),
    site: fc.constantFrom('P' as const, 'S' as const),
    confirmOverwrite: fc.boolean(),
    confirmHostsStopped: fc.constant(true),
    sourceStopped: fc.boolean(),
    confirmDataLoss: fc.constant(true),
    confirmSourceFenced: fc.constant(true),
    confirmDiscard: fc.constant(true),
  });

  test('after any events hosts never write at both sides, and a refusal changes nothing', () =>
    fc.assert(
      fc.property(fc.array(event, { maxLength: 40 }), (events) => {
        let before = JSON.stringify({ ...replicationRoles({ events: [] }), log: null });
        for (let k = 1; k <= events.length; k++) {
          const { log, ...now } = replicationRoles({ events: events.slice(0, k) });
          expect(now.hostAccess).not.toEqual({ P: 'yes', S: 'yes' });
          const text = JSON.stringify({ ...now, log: null });
          if (log.at(-1) !== 'ok') expect(text).toBe(before);
          before = text;
        }
      }),
      { numRuns: 300 },
    ));

  test('each refusal can be reached', () => {
    const copied = ['start', 'copied'];
    const over: (string | RoleEvent)[] = [...copied, { e: 'failover', sourceStopped: true, confirmDataLoss: true }];
    const last = (...events: (string | RoleEvent)[]) => after(...events).log.at(-1);
    expect(last('start', 'start')).toBe('replication-already-started');
    expect(last('linkLost', 'start')).toBe('replication-peer-unreachable');
    expect(last({ e: 'start', sizeEqual: false })).toBe('replication-size-differs');
    expect(last('copied')).toBe('replication-not-copying');
    expect(last('pause')).toBe('replication-not-active');
    expect(last('resume')).toBe('replication-not-paused');
    expect(last('switch')).toBe('replication-not-protected');
    expect(last(...copied, 'switch')).toBe('replication-confirm-hosts-stopped');
    expect(last('switched')).toBe('replication-not-switching');
    expect(last('failover')).toBe('replication-no-consistent-image');
    expect(last(...copied, 'failover')).toBe('replication-source-alive-use-switch');
    expect(last(...copied, { e: 'failover', sourceStopped: true })).toBe('replication-confirm-data-loss');
    expect(last(...copied, { e: 'siteLost', site: 'S' }, 'failover')).toBe('replication-target-unreachable');
    expect(last(...over, 'failover')).toBe('replication-already-failed-over');
    expect(last(...over, 'reverse')).toBe('replication-confirm-discard-old-source');
    expect(last(...over, 'undo')).toBe('replication-confirm-discard-recovery-site');
    expect(last('reverse')).toBe('replication-not-failed-over');
    expect(last(...copied, { e: 'switch', confirmHostsStopped: true }, 'failover')).toBe('replication-busy');
    expect(last('drillStart')).toBe('replication-no-consistent-image');
    expect(last('drillStop')).toBe('replication-no-drill');
    expect(last('remove')).toBe('replication-confirm-remove');
  });
});

test('how long until an application is at work again', () => {
  const tiers = [
    { parallel: 3, tasksS: [45, 60, 20, 50] },
    { parallel: 2, tasksS: [30, 30, 25] },
  ];
  expect(rto({ detectS: 90, decideS: 300, tiers })).toEqual({ tiersS: [70, 55], totalS: 515 });
  expect(rto({ detectS: 90, decideS: 300, tiers: [] })).toEqual({ tiersS: [], totalS: 390 });
  expect(rto({ detectS: 0, decideS: 0, tiers: [{ parallel: 2, tasksS: [] }] }).tiersS).toEqual([0]);
});

describe('peers', () => {
  const well: PeerSeen = {
    selfId: 'lintel-1',
    peerId: 'lintel-2',
    reachable: true,
    portOpen: true,
    skewS: 1,
    maxSkewS: 30,
    now: 1000,
    notBefore: 0,
    notAfter: 2000,
    fingerprintSeen: 'ab',
    fingerprintConfirmed: 'ab',
    confirmedBySelf: true,
    confirmedByPeer: false,
    versions: [2, 3, 4],
    peerVersions: [1, 2, 3],
    knownPeers: [],
  };
  const told = (more: Partial<PeerSeen>) => {
    const found = peerCheck({ ...well, ...more });
    return found.ok ? found.value : found.reason;
  };

  test('are what both sides say they are; the first thing that does not fit is told', () => {
    expect(told({})).toEqual({ state: 'awaiting-confirmation', version: 3 });
    expect(told({ confirmedByPeer: true, notBefore: null, notAfter: null })).toEqual({
      state: 'established',
      version: 3,
    });
    expect(told({ skewS: -41, fingerprintSeen: 'cd' })).toBe('peer-clock-skew');
    expect(told({ reachable: false, portOpen: false })).toBe('peer-unreachable');
    expect(told({ portOpen: false })).toBe('peer-port-closed');
    expect(told({ peerId: 'lintel-1' })).toBe('peer-self');
    expect(told({ notBefore: 1001 })).toBe('peer-key-not-yet-valid');
    expect(told({ notAfter: 1000 })).toBe('peer-key-expired');
    expect(told({ fingerprintSeen: 'cd' })).toBe('peer-fingerprint-mismatch');
    expect(told({ peerVersions: [1] })).toBe('peer-version');
    expect(told({ knownPeers: ['lintel-2'] })).toBe('peer-already-peered');
  });

  test('have a quota by pool, in all, by number and by time', () => {
    const TIB = 2 ** 40;
    const grant = { pools: { quay: 8 * TIB, hold: 6 * TIB }, bytes: 10 * TIB, volumes: 5 };
    const used = { pools: { quay: 5 * TIB, hold: 3 * TIB }, volumes: 3 };
    const ask = (pool: string, tib: number, more = {}) => {
      const found = peerQuota({ grant: { ...grant, ...more }, used, request: { pool, bytes: tib * TIB, now: 5 } });
      return found.ok ? [found.value.leftBytes / TIB, found.value.leftPoolBytes / TIB] : found.reason;
    };
    expect(ask('hold', 2)).toEqual([0, 1]);
    expect(ask('quay', 4)).toBe('peer-quota-pool-bytes');
    expect(ask('hold', 3)).toBe('peer-quota-bytes');
    expect(ask('tank', 1)).toBe('peer-quota-pool-not-offered');
    expect(ask('hold', 1, { volumes: 3 })).toBe('peer-quota-volumes');
    expect(ask('hold', 1, { notAfter: 5 })).toBe('peer-quota-expired');
  });
});
