import { stretched } from '../../../demo/stretched';
import { estateAfter, mapped, mounted } from '../../../demo/workbench';
import { protectedDemo } from '../../../demo/protection';
import { demoEstate } from '../../../demo/scenario';
import { changed, created, deleted, type Effect } from '../estate/effects';
import type { Kind, Rows } from '../estate/entities';
import { Overlay, type Estate, type EstateView } from '../estate/estate';
import { brokenBy, brokenRules, refusalOf, rules, tried } from './book';

const one = <K extends Kind>(view: EstateView, kind: K, name?: string): Rows[K] =>
  [...view.table(kind).values()].find((row) => name === undefined || (row as { name?: string }).name === name)!;
const stage = (): Estate =>
  estateAfter([
    ...mounted,
    {
      do: 'volume.create',
      array: 'lintel-1',
      pool: 'quay',
      name: 'thick',
      size: '1 GiB',
      provisioning: 'thick',
    },
    { do: 'drive.assign-spare', array: 'lintel-1', drives: ['0:20'] },
  ]);
const demo = demoEstate().estate;
const pair = stretched().estate;
const copied = protectedDemo();
/** A volume that stands on a copy which comes from another, with both. */
const standing = (view: EstateView) => {
  for (const volume of view.table('volume').values()) {
    const base = view.table('snapshot').get(volume.base ?? '');
    const parent = view.table('snapshot').get(base?.parent ?? '');
    if (base && parent) return { volume, base, parent };
  }
  throw new Error('No volume stands on a copy of a copy.');
};
const copyOfAnother = (view: EstateView) =>
  [...view.table('snapshot').values()].find((copy) => copy.volume !== standing(view).base.volume)!;

/** What each case does to a row, and the rule that notices. */
const cases: [string, string, EstateView, (view: EstateView) => Effect[]][] = [
  ['a size that is no whole number', 'misshapen', stage(), (v) => [changed('volume', one(v, 'volume'), { size: 1.5 })]],
  ['a name twice', 'taken-twice', stage(), (v) => [created('pool', { ...one(v, 'pool'), id: 'pool_x', name: 'QUAY' })]],
  [
    'an identity twice',
    'taken-twice',
    stage(),
    (v) => [created('volume', { ...one(v, 'volume', 'tickets-1'), id: 'vol_x', name: 'copy' })],
  ],
  [
    'an initiator twice',
    'taken-twice',
    stage(),
    (v) => [created('initiator', { ...one(v, 'initiator'), id: 'ini_x' })],
  ],
  [
    'two ports of a host called alike',
    'taken-twice',
    stage(),
    (v) => [changed('interface', one(v, 'interface', 'eth1'), { name: 'eth0' })],
  ],
  ['a site that goes', 'still-needed', stage(), (v) => [deleted('site', one(v, 'site', 'Nordkai'))]],
  [
    'a workload that is not there',
    'refers-to-nothing',
    stage(),
    (v) => [changed('volume', one(v, 'volume'), { workload: 'work_none' })],
  ],
  [
    'a member that is a spare as well',
    'drive-role',
    stage(),
    (v) => [changed('drive', v.table('drive').get(one(v, 'raidGroup').drives[0]!)!, { spare: 'shared' })],
  ],
  [
    'a member its group does not name',
    'drive-role',
    stage(),
    (v) => [changed('raidGroup', one(v, 'raidGroup'), { drives: one(v, 'raidGroup').drives.slice(1) })],
  ],
  [
    'a drive that does not name its group',
    'group-members',
    stage(),
    (v) => [changed('drive', v.table('drive').get(one(v, 'raidGroup').drives[0]!)!, { raidGroup: null })],
  ],
  [
    'a group of another size than its level gives',
    'group-members',
    stage(),
    (v) => [changed('raidGroup', one(v, 'raidGroup'), { usable: one(v, 'raidGroup').usable - 1 })],
  ],
  [
    'extents in a group that carries no pool',
    'group-extents',
    stage(),
    (v) => [changed('raidGroup', one(v, 'raidGroup'), { pool: null })],
  ],
  [
    'extents beyond the end of a group',
    'group-extents',
    stage(),
    (v) => [changed('extent', one(v, 'extent'), { start: 10_000_000 })],
  ],
  [
    'an extent that somebody holds',
    'extent-taken',
    stage(),
    (v) => [created('extent', { ...one(v, 'extent'), id: 'ext_x' })],
  ],
  [
    'a thick volume without its extents',
    'volume-extents',
    stage(),
    (v) =>
      [...v.table('extent').values()]
        .filter((run) => run.volume === one(v, 'volume', 'thick').id)
        .map((run) => deleted('extent', run)),
  ],
  [
    'written data without an extent',
    'volume-extents',
    stage(),
    (v) =>
      [...v.table('extent').values()]
        .filter((run) => run.volume === one(v, 'volume', 'tickets-1').id)
        .map((run) => deleted('extent', run)),
  ],
  [
    'data beyond the size',
    'volume-facts',
    stage(),
    (v) => [changed('volume', one(v, 'volume', 'thick'), { written: 2 ** 31 })],
  ],
  [
    'an owner of another array',
    'volume-facts',
    stage(),
    (v) => {
      const other = [...v.table('controller').values()].find((row) => row.array !== one(v, 'volume').array)!;
      return [changed('volume', one(v, 'volume'), { owner: other.id })];
    },
  ],
  [
    'one LUN for two volumes',
    'lun-taken',
    stage(),
    (v) => {
      const [first, second] = [...v.table('mapping').values()];
      return [changed('mapping', second!, { lun: first!.lun })];
    },
  ],
  [
    'a mapping for a cluster to which the host does not belong',
    'mapping-fits',
    demo,
    (v) => [changed('host', one(v, 'host', 'deck-1'), { cluster: null })],
  ],
  [
    'an address that another holds',
    'port-fits',
    demo,
    (v) => {
      const taken = one(v, 'interface', 'eth0').addresses;
      return [changed('port', one(v, 'port', 'a4'), { addresses: taken })];
    },
  ],
  [
    'a switch port with two cables',
    'interface-fits',
    demo,
    (v) => {
      const port = one(v, 'port', 'a0');
      return [changed('interface', one(v, 'interface', 'hba0'), { switch: port.switch, switchPort: port.switchPort })];
    },
  ],
  [
    'an initiator that is an array’s port',
    'role-swapped',
    demo,
    (v) => [changed('initiator', one(v, 'initiator'), { name: one(v, 'port', 'a0').wwpn! })],
  ],
  [
    'something mounted that is not mapped',
    'mounted-unmapped',
    stage(),
    (v) => {
      const device = [...v.table('hostDevice').values()].find((row) => row.mountPoint)!;
      return [
        deleted(
          'mapping',
          [...v.table('mapping').values()].find((row) => row.volume === device.volume)!,
        ),
      ];
    },
  ],
  [
    'a file system that reaches beyond its volume',
    'file-system-cut',
    stage(),
    (v) => {
      const device = [...v.table('hostDevice').values()].find((row) => row.fileSystem)!;
      return [changed('volume', v.table('volume').get(device.volume)!, { size: 150 * 2 ** 30 })];
    },
  ],
  [
    'an alias that a zone names and that goes',
    'zone-members',
    demo,
    (v) => {
      const used = [...v.table('zone').values()].flatMap((zone) => zone.members).find((m) => m.startsWith('alias:'))!;
      return [deleted('alias', one(v, 'alias', used.slice(6)))];
    },
  ],
  [
    'an alias called like a zone',
    'zoning-name-twice',
    demo,
    (v) => {
      const zone = one(v, 'zone');
      const alias = [...v.table('alias').values()].find((row) => row.fabric === zone.fabric)!;
      return [created('alias', { ...alias, id: 'ali_x', name: zone.name })];
    },
  ],
  [
    'a zone twice in a set',
    'zone-set-zones',
    demo,
    (v) => [
      changed('zoneSet', one(v, 'zoneSet'), { zones: [...one(v, 'zoneSet').zones, one(v, 'zoneSet').zones[0]!] }),
    ],
  ],
  [
    'an active set that is not on record',
    'active-set',
    demo,
    (v) => [changed('fabric', one(v, 'fabric'), { activeSet: 'x' })],
  ],
  [
    'a target that answers at a port of another array',
    'target-fits',
    demo,
    (v) => {
      const target = one(v, 'target');
      const port = [...v.table('port').values()].find((row) => row.array !== target.array)!;
      return [changed('target', target, { portals: [{ port: port.id, tcp: null, group: null }] })];
    },
  ],
  [
    'copies that keep more apart than they have room for',
    'copies-area',
    demo,
    (v) => [changed('volume', one(v, 'volume'), { copiesBytes: 2 ** 40 })],
  ],
  [
    'a second main target',
    'target-fits',
    demo,
    (v) => [created('target', { ...one(v, 'target'), id: 'tgt_x', name: 'x', iqn: 'iqn.2031-04.example.skarholt:x' })],
  ],
  [
    'a target that is called as an initiator is',
    'target-fits',
    demo,
    (v) => [
      changed('target', one(v, 'target'), {
        iqn: [...v.table('initiator').values()].find((row) => row.name.startsWith('iqn'))!.name,
      }),
    ],
  ],
  [
    'a mapping by a target of another array',
    'mapping-fits',
    demo,
    (v) => {
      const mapping = one(v, 'mapping');
      const array = v.table('volume').get(mapping.volume)!.array;
      const target = [...v.table('target').values()].find((row) => row.array !== array)!;
      return [changed('mapping', mapping, { target: target.id })];
    },
  ],
  [
    'a subsystem at a port of another array',
    'subsystem-fits',
    demo,
    (v) => {
      const subsystem = one(v, 'subsystem');
      const port = [...v.table('port').values()].find((row) => row.array !== subsystem.array)!;
      return [changed('subsystem', subsystem, { ports: [port.id] })];
    },
  ],
  [
    'a leg of a stretched volume under another LUN',
    'stretched-lun-differs',
    pair,
    (v) => {
      const leg = one(v, 'volume', 'stores-leg').id;
      return [changed('mapping', v.table('mapping').by('volume', leg)[0]!, { lun: 99 })];
    },
  ],
  [
    'a stretched pair of which both sites serve alone',
    'stretched-pair',
    pair,
    (v) => {
      const row = one(v, 'replication');
      const alone = { ...row.stretch!.pair.A, mode: 'SOLO' as const };
      return [
        changed('replication', row, {
          stretch: { ...row.stretch!, pair: { ...row.stretch!.pair, A: alone, B: alone } },
        }),
      ];
    },
  ],
  [
    'a stretched pair without a witness',
    'stretched-pair',
    pair,
    (v) => [changed('replication', one(v, 'replication'), { witness: null })],
  ],
  [
    'a ring of copies',
    'copy-lineage',
    copied,
    (v) => [changed('snapshot', standing(v).parent, { parent: standing(v).base.id })],
  ],
  [
    'a copy of a copy of another volume',
    'copy-lineage',
    copied,
    (v) => [changed('snapshot', standing(v).base, { parent: copyOfAnother(v).id })],
  ],
  [
    'a volume on a copy of another',
    'volume-lineage',
    copied,
    (v) => [changed('volume', standing(v).volume, { base: copyOfAnother(v).id })],
  ],
  [
    'a clone of a clone',
    'volume-lineage',
    copied,
    (v) => {
      const [first, second] = [...v.table('volume').values()].filter(({ origin }) => origin === null);
      const [third] = [...v.table('volume').values()].filter(({ id }) => ![first!.id, second!.id].includes(id));
      return [
        changed('volume', first!, { origin: second!.id, base: null }),
        changed('volume', third!, { origin: first!.id, base: null }),
      ];
    },
  ],
];

describe('the rule book', () => {
  test('holds of the demo, and of a chain that was carved', () => {
    expect(brokenRules(demo)).toEqual([]);
    expect(brokenRules(stage())).toEqual([]);
  });

  test.each(cases)('notices %s', (_, code, view, effects) => {
    const made = effects(view);
    const found = tried(view, made).broken;
    expect(found.map((broken) => broken.code)).toContain(code);
    const told = refusalOf(found.find((broken) => broken.code === code)!);
    expect(told.code).toBe(`breaks-${code}`);
    expect(told.message).toMatch(/\.$/);
    expect(told.mend).toMatch(/\.$/);
    // What touching the rows tells, looking at all of them tells as well.
    if (code === 'extent-taken' || code === 'still-needed') return;
    const after = new Overlay(view);
    after.apply(made);
    expect(brokenRules(after).map((broken) => broken.code)).toContain(code);
  });

  test('every rule of rows by themselves is broken by one of these', () => {
    const noticed = new Set(cases.map(([, code]) => code));
    // A store that does not fit is looked at with pools that reduce.
    const codes = new Set(rules.map((rule) => rule.code).filter((code) => code !== 'pool-store'));
    expect([...codes].filter((code) => !noticed.has(code))).toEqual([]);
  });

  test('a store of another size than its pages need is noticed when a volume of the pool moves', () => {
    const volume = [...demo.table('volume').values()].find((row) => row.reducedTo > 2 ** 31)!;
    const { broken } = tried(demo, [changed('volume', volume, { reducedTo: 0, written: 0, holes: [] })]);
    expect(broken.map((one) => one.code)).toContain('pool-store');
  });

  test('what was broken before and is no worse is not held against a change', () => {
    const view = new Overlay(demo);
    const [first, second] = [...view.table('mapping').values()].filter((row) => row.subsystem === null);
    const twin = [...view.table('mapping').values()].find(
      (row) => row.host === first!.host && row.id !== first!.id && row.subsystem === null,
    );
    const at = twin ?? second!;
    view.apply([changed('mapping', at, { lun: first!.lun, host: first!.host, cluster: null })]);
    const broken = view.table('mapping').get(at.id)!;
    const rename = [changed('mapping', broken, { access: 'read-only' })];
    const overlay = new Overlay(view);
    overlay.apply(rename);
    expect(brokenBy(overlay, rename)).toEqual([]);
    expect(tried(view, [changed('mapping', broken, { lun: 200 })]).broken).toEqual([]);
  });

  test('asks what rests on others once those hold: a copy that is gone is told, nothing falls over', () => {
    const { base } = standing(copied);
    const view = new Overlay(copied);
    view.apply([deleted('snapshot', base)]);
    const codes = new Set(brokenRules(view).map(({ code }) => code));
    expect(codes).toContain('refers-to-nothing');
    expect(
      [...codes].filter((code) => !['refers-to-nothing', 'copy-lineage', 'volume-lineage'].includes(code)),
    ).toEqual([]);
    const gone = tried(copied, [deleted('snapshot', base)]).broken;
    expect(gone.map(({ code }) => code)).toContain('still-needed');
  });

  test('a row is not made over one that is there, unless that goes first', () => {
    const view = stage();
    const pool = one(view, 'pool');
    const again = created('pool', { ...pool, name: 'over' });
    expect(tried(view, [again]).broken).toMatchObject([
      { code: 'made-twice', message: `Pool ${pool.name} would be written over by another.` },
    ]);
    expect(tried(view, [deleted('pool', pool), again]).broken.map(({ code }) => code)).not.toContain('made-twice');
  });

  test('freeing and taking a name within one change is no offence', () => {
    const view = stage();
    const pool = one(view, 'pool');
    const group = one(view, 'raidGroup');
    expect(
      tried(estateAfter(mapped.slice(0, 2)), [
        deleted('pool', pool),
        changed('raidGroup', group, { pool: 'pool_y' }),
        created('pool', { ...pool, id: 'pool_y' }),
      ]).broken,
    ).toEqual([]);
  });
});

test('a rule that says which fields it reads judges alike whatever the others are', () => {
  let judged = 0;
  for (const rule of rules) {
    if (!rule.reads) continue;
    const [first, ...others] = [...demo.table(rule.of).values()];
    if (!first) continue;
    const other = others.at(-1) ?? first;
    const unread = Object.keys(first).filter((field) => field !== 'id' && !rule.reads!.includes(field));
    const moved = { ...first, ...Object.fromEntries(unread.map((field) => [field, other[field as 'id']])) };
    const view = new Overlay(demo);
    view.apply([{ kind: rule.of, id: first.id, before: first, after: moved } as Effect]);
    const told = (one: EstateView, row: Rows[Kind]) => rule.broken(one, row).length;
    expect([rule.of, rule.code, told(view, moved)]).toEqual([rule.of, rule.code, told(demo, first)]);
    judged += 1;
  }
  expect(judged).toBeGreaterThan(50);
});

test('of a row that changed only the fields that changed are held against its schema', () => {
  const volume = one(demo, 'volume');
  const broken = (fields: Partial<typeof volume>) =>
    tried(demo, [changed('volume', volume, fields)]).broken.filter(({ code }) => code === 'misshapen');
  expect(broken({ notes: 'other' })).toEqual([]);
  expect(broken({ size: volume.size + 0.5 })).toEqual([
    expect.objectContaining({ message: expect.stringContaining('an impossible size') as string }),
  ]);
  expect(broken({ holes: [[0, -1]] })).toEqual([
    expect.objectContaining({ message: expect.stringContaining('an impossible holes.0.1') as string }),
  ]);
});
