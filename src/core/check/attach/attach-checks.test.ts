import { demoEstate } from '../../../../demo/scenario';
import { serverWwpn } from '../../../../demo/hardware';
import { iqn } from '../../../../demo/names';
import { basis, carryOut, targetOf } from '../../../../demo/workbench';
import type { OperationDocument } from '../../change/registry';
import { changed, created, deleted } from '../../estate/effects';
import { rowOf, type Kind, type Rows } from '../../estate/entities';
import { Estate } from '../../estate/estate';
import { lookUp, type NamedKind } from '../../operation/inquiry';
import { checkContext, checks, findings, type MutedFinding } from '../engine';
import { attachChecks } from '.';

const { effects } = demoEstate();
function demo(): Estate {
  const estate = new Estate();
  estate.apply(effects);
  return estate;
}
const found = (estate: Estate, id: string): MutedFinding[] =>
  findings(estate, checkContext(estate, basis.now)).filter((one) => one.check === id);
const named = <K extends NamedKind>(estate: Estate, kind: K, name: string, scope?: string): Rows[K] => {
  const owner = scope
    ? (lookUp(estate, 'array', scope) ?? lookUp(estate, 'host', scope) ?? lookUp(estate, 'fabric', scope))?.id
    : undefined;
  return lookUp(estate, kind, name, owner)!;
};
const set = <K extends Kind>(estate: Estate, kind: K, row: Rows[K], fields: Partial<Rows[K]>) =>
  estate.apply([changed(kind, row, fields)]);
let count = 0;
const run = (estate: Estate, ...operations: OperationDocument[]) => carryOut(estate, operations, `case ${count++}`);
const nic = (estate: Estate, host: string, name: string) => named(estate, 'interface', name, host);
const mappingOf = (estate: Estate, host: string, volume: string) =>
  estate
    .table('mapping')
    .by('host', named(estate, 'host', host).id)
    .find((row) => estate.table('volume').get(row.volume)!.name === volume)!;
const portOf = (estate: Estate, array: string, name: string) => named(estate, 'port', name, array);
const ini = (estate: Estate, host: string, k = 0) =>
  estate.table('initiator').by('host', named(estate, 'host', host).id)[k]!;
const again = (estate: Estate, mapping: Rows['mapping'], fields: Partial<Rows['mapping']>) =>
  estate.apply([created('mapping', { ...mapping, id: 'map_again', ...fields })]);
const gone = <K extends Kind>(estate: Estate, kind: K, id: string) =>
  estate.apply([deleted(kind, estate.table(kind).get(id)!)]);
const fabricZone = (fields: Partial<OperationDocument>): OperationDocument => ({
  do: 'zone.create',
  fabric: 'A',
  name: 'trial_zone',
  ...fields,
});

interface Case {
  make: (estate: Estate) => void;
  /** Makes it go; without it the finding's own mend is carried out. */
  mend?: (estate: Estate) => void;
  /** Added to the mend's parameters, where a person has to choose. */
  with?: Record<string, unknown>;
  says: RegExp;
}
/** Puts the rows back as the demo has them. */
const put =
  <K extends Kind>(kind: K, of: (estate: Estate) => Rows[K]) =>
  (estate: Estate) => {
    const row = of(estate);
    const was = demo().table(kind).get(row.id);
    estate.apply([was ? changed(kind, row, was) : deleted(kind, row)]);
  };
const down = <K extends 'port' | 'controller' | 'interface' | 'switch' | 'isl' | 'network'>(
  kind: K,
  of: (estate: Estate) => Rows[K],
): Pick<Case, 'make' | 'mend'> => ({
  make: (estate) => set(estate, kind, of(estate), { state: 'down' } as Partial<Rows[K]>),
  mend: (estate) => set(estate, kind, of(estate), { state: 'up' } as Partial<Rows[K]>),
});
const host = (name: string) => (estate: Estate) => named(estate, 'host', name);
const secret = 'c'.repeat(32);

const cases: Record<string, Case> = {
  'wwpn-malformed': {
    make: (e) => set(e, 'initiator', ini(e, 'cargo-db-1'), { name: '50000a5' }),
    mend: put('initiator', (e) => [...e.table('initiator').values()].find((row) => row.name === '50000a5')!),
    says: /50000a5 is no port name/,
  },
  'iqn-malformed': {
    make: (e) => set(e, 'initiator', ini(e, 'gate-1'), { name: 'iqn.2031-13.example.skarholt:gate-1' }),
    with: { newName: iqn('gate-1') },
    says: /is no iSCSI name/,
  },
  'nqn-malformed': {
    make: (e) => set(e, 'initiator', ini(e, 'berth-sim'), { name: 'nqn.2031-04.example.skarholt' }),
    mend: put('initiator', (e) => ini(e, 'berth-sim')),
    says: /is no NQN/,
  },
  'name-near-miss': {
    make: (e) => set(e, 'initiator', ini(e, 'gate-1'), { name: iqn('gaet-1') }),
    says: /gaet-1 is on record and unknown; gate-1 shows .*gate-1, which differs in 1 place at 32/,
  },
  'name-role-swapped': {
    make: (e) => set(e, 'initiator', ini(e, 'gate-1'), { name: iqn('purlin-1') }),
    with: { newName: iqn('gate-1') },
    says: /is the target name of purlin-1/,
  },
  'nqn-case-differs': {
    make: (e) => {
      const row = named(e, 'subsystem', 'berths', 'lintel-1');
      set(e, 'subsystem', row, { allowed: row.allowed.map((one) => one.replace('berth', 'Berth')) });
    },
    says: /compared byte by byte/,
  },
  'duplicate-wwpn': {
    make: (e) => set(e, 'interface', nic(e, 'deck-4', 'hba0'), { wwpn: serverWwpn('deck-3', 'hba0') }),
    mend: put('interface', (e) => nic(e, 'deck-4', 'hba0')),
    says: /is logged in at deck-3 hba0 and deck-4 hba0|is logged in at deck-4 hba0 and deck-3 hba0/,
  },
  'duplicate-host-name': {
    make: (e) => set(e, 'host', host('gate-2')(e), { presents: iqn('gate-1') }),
    mend: put('host', host('gate-2')),
    says: /gate-1 belongs to gate-1 and gate-2/,
  },
  'duplicate-host-id': {
    make: (e) => {
      for (const name of ['gate-1', 'gate-2']) set(e, 'host', host(name)(e), { hostNqnId: 'f'.repeat(32) });
    },
    mend: put('host', host('gate-2')),
    says: /gate-1 and gate-2 share the NVMe host identifier/,
  },
  'duplicate-volume-id': {
    make: (e) =>
      set(e, 'volume', named(e, 'volume', 'scanner', 'lintel-1'), {
        naa: named(e, 'volume', 'tickets', 'lintel-1').naa,
      }),
    mend: put('volume', (e) => named(e, 'volume', 'scanner', 'lintel-1')),
    says: /take .*(tickets|scanner) and (scanner|tickets) for one disk/,
  },
  'duplicate-ip': {
    make: (e) => set(e, 'interface', nic(e, 'gate-2', 'eth0'), { addresses: [{ ip: '10.40.1.51', prefix: 24 }] }),
    mend: put('interface', (e) => nic(e, 'gate-2', 'eth0')),
    says: /10\.40\.1\.51 is used by/,
  },
  'host-port-not-logged-in': {
    ...down('interface', (e) => nic(e, 'deck-1', 'hba0')),
    says: /deck-1 hba0 has no fabric login/,
  },
  'array-port-down': { ...down('port', (e) => portOf(e, 'lintel-1', 'a0')), says: /a0 is down: 4 paths are lost/ },
  'controller-down': {
    ...down('controller', (e) => named(e, 'controller', 'a', 'lintel-1')),
    says: /Controller a of lintel-1 is down; b has taken its \d+ volumes/,
  },
  'fabric-crossed': {
    make: (e) => {
      const row = nic(e, 'keel-backup', 'hba0');
      set(e, 'interface', row, { switch: named(e, 'switch', 'b1').id, switchPort: 30 });
    },
    mend: put('interface', (e) => nic(e, 'keel-backup', 'hba0')),
    says: /keel-backup hba0 is plugged into fabric B; its zone .* is in fabric A/,
  },
  'single-fabric-host': {
    make: (e) => run(e, { do: 'zoning.part', fabric: 'B', host: 'deck-2', array: 'lintel-1' }),
    says: /deck-2 depends on fabric A alone/,
  },
  'not-zoned': {
    make: (e) => {
      for (const kind of ['zone', 'activeZone'] as const)
        for (const zone of [...e.table(kind).values()]) if (zone.name.startsWith('cargo')) gone(e, kind, zone.id);
    },
    mend: (e) => {
      for (const fabric of ['A', 'B']) run(e, { do: 'zoning.join', fabric, cluster: 'cargo', array: 'lintel-1' });
    },
    says: /cargo-db-\d shares no active zone with lintel-1 in fabric (A|B)/,
  },
  'zone-not-active': {
    make: (e) => {
      for (const zone of e.table('activeZone').values())
        if (zone.name.startsWith('deck-4') && zone.fabric === named(e, 'fabric', 'A').id)
          gone(e, 'activeZone', zone.id);
    },
    says: /deck-4 and lintel-1 would meet in fabric A by zone set set_A/,
  },
  'zone-member-near-miss': {
    make: (e) => {
      const wwpn = serverWwpn('deck-1', 'hba0');
      const slip = `${wwpn.slice(0, -1)}${wwpn.endsWith('0') ? '1' : '0'}`;
      run(e, fabricZone({ members: [slip, 'lintel-1_a2'] }));
    },
    says: /differs/,
  },
  'zone-many-initiators': {
    make: (e) => run(e, fabricZone({ members: ['deck-3_hba0', 'deck-4_hba0', 'lintel-1_a2'] })),
    says: /trial_zone holds 2 initiators/,
  },
  'zone-one-member': {
    make: (e) => run(e, fabricZone({ members: ['lintel-1_a2'] })),
    says: /trial_zone permits nothing/,
  },
  'zone-no-target': {
    make: (e) => run(e, fabricZone({ members: ['deck-3_hba0', 'deck-4_hba0'] })),
    with: { members: ['deck-3_hba0', 'lintel-1_a2'] },
    says: /joins no initiator with a target/,
  },
  'zone-stale-member': {
    make: (e) => run(e, fabricZone({ members: ['deck-1_hba0', 'lintel-1_a2', '50:00:0a:99:99:00:00:01'] })),
    says: /50:00:0a:99:99:00:00:01/,
  },
  'zone-duplicate': {
    make: (e) => run(e, fabricZone({ members: ['deck-1_hba0', 'deck-2_hba0', 'lintel-1_a2'] })),
    says: /has the same members as deck_pair/,
  },
  'zone-mixed-members': {
    make: (e) => run(e, fabricZone({ members: ['deck-1_hba0', '1,10', 'lintel-1_a2'] })),
    says: /names deck-1 hba0 by its name and by its place/,
  },
  'zone-node-name': {
    make: (e) => run(e, fabricZone({ members: ['deck-1_hba0', `node ${named(e, 'array', 'lintel-2').wwnn}`] })),
    with: { members: ['deck-1_hba0', 'lintel-1_a2'] },
    says: /trial_zone/,
  },
  'zone-name-hard': {
    make: (e) => run(e, fabricZone({ name: 'z17', members: ['deck-1_hba0', 'lintel-1_a2'] })),
    with: { newName: 'deck-1_hba0__lintel-1_extra' },
    says: /z17 says little/,
  },
  'alias-unused': {
    make: (e) => run(e, { do: 'alias.create', fabric: 'A', name: 'nobody', members: ['50:00:0a:99:99:00:00:01'] }),
    says: /uses alias nobody/,
  },
  'default-zone-permit': {
    make: (e) => set(e, 'fabric', named(e, 'fabric', 'B'), { defaultZone: 'permit' }),
    says: /all see each other in B/,
  },
  'defined-differs-from-active': {
    make: (e) => run(e, fabricZone({ members: ['deck-1_hba0', 'lintel-1_b2'] })),
    says: /1 change is not active in A: trial_zone/,
  },
  'zone-without-mapping': {
    make: (e) => run(e, { do: 'zoning.join', fabric: 'A', host: 'ledger-1', array: 'lintel-1', ports: ['a3', 'a2'] }),
    mend: (e) => run(e, { do: 'zoning.part', fabric: 'A', host: 'ledger-1', array: 'lintel-1' }),
    says: /ledger-1 may reach lintel-1/,
  },
  'merge-conflict': {
    make: (e) => {
      set(e, 'fabric', named(e, 'fabric', 'B'), { edTov: 4000 });
      set(e, 'isl', named(e, 'isl', 'a1-a2-2'), { b: named(e, 'switch', 'b2').id });
    },
    mend: (e) => set(e, 'fabric', named(e, 'fabric', 'B'), { edTov: 2000 }),
    says: /a1-a2-2 joins fabric A and fabric B, which stay apart: E_D_TOV/,
  },
  'domain-overlap': {
    make: (e) => set(e, 'switch', named(e, 'switch', 'a2'), { domain: 1 }),
    mend: put('switch', (e) => named(e, 'switch', 'a2')),
    says: /Domain 1 is in both a1 and a2/,
  },
  'fan-in-high': {
    make: (e) => {
      for (let n = 0; n < 40; n++) {
        const wwpn = `20000a66d4${String(n).padStart(6, '0')}`;
        const row = rowOf('interface', {
          id: `if_many${n}`,
          host: null,
          name: `many${n}`,
          kind: 'fc',
          addresses: [],
          mtu: 2112,
          state: 'up',
          speed: 32,
          wwpn,
          switch: named(e, 'switch', 'a1').id,
          switchPort: 20,
        });
        e.apply([
          created('interface', row),
          created(
            'activeZone',
            rowOf('activeZone', {
              id: `act_many${n}`,
              fabric: named(e, 'fabric', 'A').id,
              name: `many${n}`,
              members: [`wwpn:${wwpn}`, `wwpn:${portOf(e, 'lintel-1', 'a2').wwpn}`],
            }),
          ),
        ]);
      }
    },
    mend: (e) => {
      for (let n = 0; n < 40; n++) gone(e, 'activeZone', `act_many${n}`);
    },
    says: /4\d initiators may talk to a2/,
  },
  'isl-oversubscribed': {
    make: (e) => {
      for (const isl of e.table('isl').values()) set(e, 'isl', isl, { speed: 4 });
    },
    mend: (e) => {
      for (const isl of e.table('isl').values()) set(e, 'isl', isl, { speed: 32 });
    },
    says: /64 Gb\/s of edge ports cross 8 Gb\/s, 8\.0:1/,
  },
  'isl-single': {
    ...down('isl', (e) => named(e, 'isl', 'a1-a2-2')),
    says: /a1-a2-1 is the only way between a1 and a2/,
  },
  'hops-too-many': {
    make: (e) => {
      const a = named(e, 'switch', 'a1');
      const chain = ['x1', 'x2'].map((name, k) => {
        const row = { ...a, id: `sw_${name}`, name, domain: 90 + k };
        e.apply([created('switch', row)]);
        return row.id;
      });
      const isl = named(e, 'isl', 'a1-a2-1');
      set(e, 'isl', isl, { b: chain[0]! });
      set(e, 'isl', named(e, 'isl', 'a1-a2-2'), { a: chain[1]! });
      e.apply([created('isl', { ...isl, id: 'isl_x', name: 'x', a: chain[0]!, b: chain[1]! })]);
    },
    mend: (e) => {
      const was = demo();
      for (const name of ['a1-a2-1', 'a1-a2-2']) set(e, 'isl', named(e, 'isl', name), named(was, 'isl', name));
    },
    says: /deck-\d hba0 is 3 hops from lintel-1/,
  },
  'credits-too-few': {
    make: (e) => set(e, 'isl', named(e, 'isl', 'a1-a2-1'), { credits: 8 }),
    mend: put('isl', (e) => named(e, 'isl', 'a1-a2-1')),
    says: /a1-a2-1 needs 596 credits for 38 km at 32 Gb\/s, has 8/,
  },
  'speed-none-common': {
    make: (e) => set(e, 'interface', nic(e, 'keel-backup', 'hba0'), { speed: 4 }),
    mend: put('interface', (e) => nic(e, 'keel-backup', 'hba0')),
    says: /runs 4 Gb\/s, a1 32 Gb\/s: no speed is common/,
  },
  'speed-reduced': {
    make: (e) => set(e, 'isl', named(e, 'isl', 'b1-b2-1'), { speed: 16 }),
    mend: put('isl', (e) => named(e, 'isl', 'b1-b2-1')),
    says: /b1-b2-1 runs at 16 Gb\/s; both ends can do 32/,
  },
  'portal-unreachable': {
    make: (e) => set(e, 'port', portOf(e, 'purlin-1', 'a2'), { addresses: [{ ip: '10.40.99.5', prefix: 24 }] }),
    mend: put('port', (e) => portOf(e, 'purlin-1', 'a2')),
    says: /No host reaches purlin-1 a2/,
  },
  'vlan-mismatch': {
    make: (e) => set(e, 'interface', nic(e, 'gate-1', 'eth0'), { vlan: 7 }),
    with: { vlan: 401 },
    says: /gate-1 eth0 is on VLAN 7/,
  },
  'mtu-black-hole': {
    make: (e) => set(e, 'network', named(e, 'network', 'iscsi-a'), { mtu: 1500 }),
    mend: (e) => set(e, 'network', named(e, 'network', 'iscsi-a'), { mtu: 9000 }),
    says: /Frames of 9000 bytes from .* are dropped by iscsi-a \(1500\)/,
  },
  'mtu-differs': {
    make: (e) => set(e, 'interface', nic(e, 'gate-1', 'eth0'), { mtu: 1500 }),
    says: /gate-1 eth0 has MTU 1500, portal a4 9000: it works at 1500/,
  },
  'binding-uplinks': {
    make: (e) =>
      set(e, 'interface', nic(e, 'radar-vault', 'eth0'), {
        uplinks: [
          { name: 'up1', use: 'active' },
          { name: 'up2', use: 'active' },
        ],
      }),
    with: { uplinks: ['up1'] },
    says: /radar-vault eth0 has 2 active uplinks, must be 1/,
  },
  'one-interface-used': {
    make: (e) => {
      for (const row of e.table('interface').by('host', named(e, 'host', 'radar-vault').id))
        set(e, 'interface', row, { bound: false });
    },
    mend: (e) => {
      for (const row of e.table('interface').by('host', named(e, 'host', 'radar-vault').id))
        set(e, 'interface', row, { bound: true });
    },
    says: /All sessions of radar-vault in that subnet leave by eth0/,
  },
  'bound-interface-useless': {
    make: (e) => set(e, 'interface', nic(e, 'radar-vault', 'eth0'), { addresses: [{ ip: '10.99.1.7', prefix: 24 }] }),
    mend: put('interface', (e) => nic(e, 'radar-vault', 'eth0')),
    says: /eth0 of radar-vault is bound, and lies in no subnet of a portal/,
  },
  'lun-differs-by-port': {
    make: (e) => {
      const one = mappingOf(e, 'gate-1', 'tickets');
      set(e, 'mapping', one, { ports: [portOf(e, 'lintel-1', 'a4').id] });
      again(e, mappingOf(e, 'gate-1', 'tickets'), { lun: 44, ports: [portOf(e, 'lintel-1', 'b4').id] });
    },
    mend: (e) => gone(e, 'mapping', 'map_again'),
    says: /tickets is LUN \d+ at gate-1 by some ports and LUN \d+ by others/,
  },
  'shared-read-only': {
    make: (e) =>
      again(e, mappingOf(e, 'gate-1', 'tickets'), {
        host: named(e, 'host', 'gate-2').id,
        lun: 45,
        access: 'read-only',
      }),
    says: /gate-1 writes to tickets while gate-2 reads it/,
  },
  'sessions-missing': {
    ...down('interface', (e) => nic(e, 'gate-1', 'eth0')),
    says: /2 of 4 sessions of gate-1 at lintel-1/,
  },
  'chap-same-both-ways': {
    make: (e) => set(e, 'host', host('gate-1')(e), { chapSecret: secret, targetSecret: secret }),
    mend: put('host', host('gate-1')),
    says: /gate-1 proves itself with the secret it expects/,
  },
  'chap-failed': {
    make: (e) => set(e, 'target', targetOf(e, 'purlin-1'), { auth: 'one-way' }),
    mend: (e) => set(e, 'target', targetOf(e, 'purlin-1'), { auth: 'none' }),
    says: /radar-vault at purlin-1: Authentication failed \(0201\)/,
  },
  'chap-not-required': {
    make: (e) => {
      set(e, 'host', host('gate-1')(e), { chapSecret: secret });
      for (const mute of e.table('mute').values()) gone(e, 'mute', mute.id);
    },
    mend: (e) => {
      for (const target of e.table('target').values()) set(e, 'target', target, { auth: 'one-way' });
    },
    says: /lets iSCSI initiators in by their name alone/,
  },
  'target-disabled': {
    make: (e) => set(e, 'target', targetOf(e, 'lintel-1'), { enabled: false }),
    mend: (e) => set(e, 'target', targetOf(e, 'lintel-1'), { enabled: true }),
    says: /gate-1 at lintel-1: Service unavailable \(0301\)/,
  },
  'session-limit': {
    make: (e) => set(e, 'target', targetOf(e, 'lintel-1'), { sessionLimit: 5 }),
    mend: (e) => set(e, 'target', targetOf(e, 'lintel-1'), { sessionLimit: null }),
    says: /gate-2 at lintel-1: Out of resources \(0302\): lintel-1 has all of its 5 sessions/,
  },
  'target-open': {
    make: (e) => set(e, 'target', targetOf(e, 'lintel-1'), { anyone: true }),
    mend: (e) => set(e, 'target', targetOf(e, 'lintel-1'), { anyone: false }),
    says: /lintel-1 lets in initiators that nobody has on record, without any proof/,
  },
  'isns-not-visible': {
    make: (e) => set(e, 'host', host('gate-1')(e), { discovery: 'isns' }),
    mend: (e) => set(e, 'host', host('gate-1')(e), { discovery: 'addresses' }),
    says: /gate-1 at lintel-1/,
  },
  'nqn-not-allowed': {
    make: (e) => set(e, 'subsystem', named(e, 'subsystem', 'berths', 'lintel-1'), { allowed: [] }),
    says: /Connect invalid host \(84h\)/,
  },
  'initiator-unknown': {
    make: (e) => set(e, 'host', host('gate-2')(e), { presents: iqn('gate-9') }),
    says: /gate-2 at lintel-1: Not authorised \(0202\)/,
  },
  'referral-loop': {
    make: (e) => set(e, 'array', named(e, 'array', 'purlin-1'), { referrals: [{ ip: '10.40.9.9', service: 8009 }] }),
    says: /purlin-1 refers to 10\.40\.9\.9:8009, where nothing answers/,
  },
  'keep-alive-off': {
    make: (e) => set(e, 'host', host('berth-sim')(e), { keepAlive: 0 }),
    says: /berth-sim sends no keep-alive/,
  },
  'not-mapped': {
    make: (e) => run(e, { do: 'mapping.delete', host: 'deck-4', array: 'lintel-1', volumes: ['stores-2'] }),
    says: /stores-2 is shown to 3 of 4 members of deck; deck-4 does not see it/,
  },
  'write-protected': {
    make: (e) => {
      const mapping = mappingOf(e, 'gate-1', 'tickets');
      set(e, 'mapping', mapping, { access: 'read-only' });
      const device = e.table('hostDevice').by('volume', mapping.volume)[0]!;
      set(e, 'hostDevice', device, { writeRate: 1024 });
    },
    says: /gate-1 may only read tickets: it is mapped for reading only\. Its writes to .* fail/,
  },
  'lun-taken': {
    make: (e) => set(e, 'mapping', mappingOf(e, 'gate-2', 'scanner'), { lun: mappingOf(e, 'gate-2', 'crew-rota').lun }),
    mend: put('mapping', (e) => mappingOf(e, 'gate-2', 'scanner')),
    says: /shows .* of lintel-1 to gate-2/,
  },
  'volume-mapped-twice': {
    make: (e) => again(e, mappingOf(e, 'gate-1', 'tickets'), { lun: 44 }),
    mend: (e) => gone(e, 'mapping', 'map_again'),
    says: /tickets is LUN \d+ and \d+ at gate-1/,
  },
  'cluster-lun-differs': {
    make: (e) => set(e, 'mapping', mappingOf(e, 'cargo-db-2', 'cargo-log'), { lun: 77 }),
    says: /cargo-log in cluster cargo: cargo-db-1 LUN 1, cargo-db-2 LUN 77/,
  },
  'shared-unclustered': {
    make: (e) => again(e, mappingOf(e, 'gate-1', 'tickets'), { host: named(e, 'host', 'gate-2').id, lun: 90 }),
    mend: (e) => gone(e, 'mapping', 'map_again'),
    says: /gate-1 and gate-2 may all write to tickets/,
  },
  'rights-conflict': {
    make: (e) => again(e, mappingOf(e, 'gate-1', 'tickets'), { access: 'read-only' }),
    mend: (e) => gone(e, 'mapping', 'map_again'),
    says: /gate-1 may write to tickets by one mapping/,
  },
  'lun-out-of-range': {
    make: (e) => set(e, 'mapping', mappingOf(e, 'deck-2', 'stores-2'), { lun: 5000 }),
    says: /stores-2 is LUN 5000 at deck-2, which addresses LUNs up to 1023/,
  },
  'paths-fewer-than-expected': {
    ...down('interface', (e) => nic(e, 'deck-1', 'hba1')),
    says: /2 of 4 paths of deck-1 to stores-1/,
  },
  'paths-single': {
    make: (e) => {
      for (const name of ['b0', 'a1', 'b1']) set(e, 'port', portOf(e, 'purlin-1', name), { state: 'down' });
    },
    mend: (e) => {
      for (const name of ['b0', 'a1', 'b1']) set(e, 'port', portOf(e, 'purlin-1', name), { state: 'up' });
    },
    says: /keel at keel-backup hangs on one path, hba0 to purlin-1 a0/,
  },
  'paths-too-many': {
    make: (e) => {
      for (let n = 2; n < 7; n++)
        for (const side of [1, 2])
          e.apply([
            created('interface', {
              ...nic(e, 'radar-vault', `eth${side - 1}`),
              id: `if_more${n}${side}`,
              name: `more${n}${side}`,
              addresses: [{ ip: `10.40.${side}.${90 + n}`, prefix: 24 }],
            }),
          ]);
    },
    mend: (e) => {
      for (let n = 2; n < 7; n++) for (const side of [1, 2]) gone(e, 'interface', `if_more${n}${side}`);
    },
    says: /28 paths of radar-vault to/,
  },
  'no-optimized-path': {
    make: (e) => {
      const owner = e.table('controller').get(named(e, 'volume', 'keel', 'purlin-1').owner)!.name;
      for (const port of e.table('port').values())
        if (port.role === 'fc' && port.array === named(e, 'array', 'purlin-1').id && port.name.startsWith(owner))
          set(e, 'port', port, { state: 'down' });
    },
    mend: (e) => {
      for (const port of e.table('port').values()) set(e, 'port', port, { state: 'up' });
    },
    says: /keel-backup reaches keel only through controller/,
  },
  'multipath-absent': {
    make: (e) => set(e, 'host', host('gate-1')(e), { multipath: false }),
    says: /at gate-1: the same identity shows as 4 disks/,
  },
  'spof-component': {
    ...down('switch', (e) => named(e, 'switch', 'b2')),
    says: /All paths of deck-3 to stores-1.* go by host card deck-3 card 0, host port or its cable deck-3 hba0/,
  },
  'queue-overcommit': {
    make: (e) => set(e, 'port', portOf(e, 'purlin-1', 'a2'), { commandLimit: 100 }),
    mend: put('port', (e) => portOf(e, 'purlin-1', 'a2')),
    says: /a2: \d+ commands may be outstanding, it takes 100/,
  },
  'queue-safe-depth-impossible': {
    make: (e) => set(e, 'port', portOf(e, 'purlin-1', 'a2'), { commandLimit: 1 }),
    mend: put('port', (e) => portOf(e, 'purlin-1', 'a2')),
    says: /a2 shows \d+ LUNs to its initiators and takes 1 commands/,
  },
  'session-reinstated': {
    make: (e) => {
      for (const name of ['eth0', 'eth1']) set(e, 'interface', nic(e, 'gate-1', name), { isid: '800000000001' });
    },
    mend: (e) => {
      for (const name of ['eth0', 'eth1']) set(e, 'interface', nic(e, 'gate-1', name), { isid: null });
    },
    says: /gate-1 at lintel-1: A later login at lintel-1 with the same ISID, 0x800000000001/,
  },
  'no-lun-zero': {
    make: (e) => set(e, 'mapping', mappingOf(e, 'radar-vault', 'radar-1'), { lun: 7 }),
    mend: (e) => set(e, 'mapping', mappingOf(e, 'radar-vault', 'radar-1'), { lun: 0 }),
    says: /radar-vault sees LUNs of purlin-1 from 1 on/,
  },
  'boot-lun-moved': {
    make: (e) => set(e, 'volume', named(e, 'volume', 'gate-log-1', 'lintel-1'), { boot: true }),
    mend: (e) => set(e, 'volume', named(e, 'volume', 'gate-log-1', 'lintel-1'), { boot: false }),
    says: /gate-1 starts from gate-log-1, which is LUN 1; tickets comes before it as LUN 0/,
  },
  'port-load-high': {
    make: (e) => {
      const volume = named(e, 'volume', 'keel', 'purlin-1');
      const [device] = e.table('hostDevice').by('volume', volume.id);
      set(e, 'hostDevice', device!, { writeRate: 2.6e9 });
    },
    mend: (e) => {
      const [device] = e.table('hostDevice').by('volume', named(e, 'volume', 'keel', 'purlin-1').id);
      set(e, 'hostDevice', device!, { writeRate: 0 });
    },
    says: /carries 1\.2\d GiB\/s of 1\.4\d GiB\/s, 81 %/,
  },
  'survivor-overload': {
    make: (e) => {
      const [device] = e.table('hostDevice').by('volume', named(e, 'volume', 'keel', 'purlin-1').id);
      set(e, 'hostDevice', device!, { writeRate: 2e9 });
    },
    mend: (e) => {
      const [device] = e.table('hostDevice').by('volume', named(e, 'volume', 'keel', 'purlin-1').id);
      set(e, 'hostDevice', device!, { writeRate: 0 });
    },
    says: /Without fabric (A|B), .* would carry 125 %/,
  },
  'distance-latency': {
    make: (e) => {
      for (const isl of e.table('isl').values()) set(e, 'isl', isl, { km: 600 });
    },
    mend: (e) => {
      for (const isl of e.table('isl').values()) set(e, 'isl', isl, { km: 38 });
    },
    says: /600 km between deck-\d and lintel-1 .* add 6\.0 ms/,
  },
  'rescan-needed': {
    make: (e) => {
      const [device] = e.table('hostDevice').by('host', named(e, 'host', 'cargo-db-2').id);
      gone(e, 'hostDevice', device!.id);
    },
    says: /cargo-db-2 has not looked/,
  },
};

test('every check of attaching has its case', () =>
  expect(attachChecks.map((check) => check.id).sort()).toEqual(Object.keys(cases).sort()));

test('no two checks share a name', () => expect(new Set(checks.map((check) => check.id)).size).toBe(checks.length));

describe.each(Object.entries(cases))('%s', (id, one) => {
  test('appears, says what is wrong, and goes when it is mended', () => {
    const estate = demo();
    const before = new Set(
      found(estate, id)
        .flatMap((finding) => (finding.muted ? [] : [finding]))
        .map((finding) => `${finding.subject.id} ${finding.says}`),
    );
    const fresh = () =>
      found(estate, id).filter((finding) => !before.has(`${finding.subject.id} ${finding.says}`) && !finding.muted);
    expect(fresh()).toEqual([]);
    one.make(estate);
    const [finding] = fresh();
    expect(finding?.says).toMatch(one.says);
    expect(finding!.advice).not.toBe('');
    if (one.mend) one.mend(estate);
    else {
      const { do: kind, params } = finding!.mend!;
      run(estate, { do: kind, ...params, ...one.with });
    }
    expect(fresh().filter((other) => other.subject.id === finding!.subject.id)).toEqual([]);
  });
});

test('the planted mistakes of attaching are found in the demo', () => {
  const all = findings(demo(), checkContext(demo(), basis.now)).filter((finding) => !finding.muted);
  for (const [check, subject] of [
    ['single-fabric-host', 'ledger-1'],
    ['zone-many-initiators', 'deck_pair'],
    ['alias-unused', 'quay-old_hba1'],
    ['name-near-miss', 'radar-vault'],
    ['mtu-differs', 'gate-2 eth1'],
    ['cluster-lun-differs', 'stores-3'],
  ])
    expect(all.some((finding) => finding.check === check && finding.subject.name.includes(subject!))).toBe(true);
  const planted = [
    'spof-component',
    'single-fabric-host',
    'zone-many-initiators',
    'alias-unused',
    'name-near-miss',
    'mtu-differs',
    'cluster-lun-differs',
  ];
  const ids = new Set(attachChecks.map((check) => check.id));
  expect(all.filter((finding) => ids.has(finding.check) && !planted.includes(finding.check))).toEqual([]);
});

test('a queue beyond four times the limit is an error, and a lower depth is offered', () => {
  const estate = demo();
  set(estate, 'port', portOf(estate, 'purlin-1', 'a2'), { commandLimit: 20 });
  const [finding] = found(estate, 'queue-overcommit');
  expect(finding).toMatchObject({ severity: 'error', mend: { do: 'host.configure' } });
});
