import { demoEstate } from '../../../demo/scenario';
import { slots } from '../../../demo/names';
import { estateAfter, mapped, mounted, named, smallChain } from '../../../demo/workbench';
import { copying } from '../../../demo/replicated';
import { HOUR } from '../units/duration';
import { changed, created, deleted } from '../estate/effects';
import { kindOf, kinds } from '../estate/entities';
import type { Estate } from '../estate/estate';
import { chainOf, exists, selectableKinds, type SelectableKind } from './chain';
import { factsOf } from './facts';
import { spanModel } from './model';
import { fcid, hostDevice } from '../fabric/devices';
import { search, soughtKinds } from './search';

const idOf = (estate: Estate, kind: SelectableKind, name: string, array = 'lintel-1'): string => {
  const scope = [...estate.table('array').values()].find((row) => row.name === array)!.id;
  return [...estate.table(kind).values()].find(
    (row) => (row as { name?: string }).name === name && (!('array' in row) || row.array === scope),
  )!.id;
};
const names = (estate: Estate, kind: SelectableKind, ids: readonly string[]) =>
  ids.map((id) => (estate.table(kind).get(id) as { name: string }).name).sort();

describe('the chain through a selection', () => {
  const estate = estateAfter([
    ...mapped,
    { do: 'raid-group.create', array: 'lintel-1', name: 'rg-2', level: 'raid5', drives: slots(1, 0, 3) },
    { do: 'pool.create', array: 'lintel-1', name: 'hold', raidGroups: ['rg-2'] },
    { do: 'volume.create', array: 'lintel-1', pool: 'hold', name: 'idle', size: '1 GiB' },
  ]);
  const chain = (kind: SelectableKind, name: string) => chainOf(estate, { kind, id: idOf(estate, kind, name) });

  test('a volume rests on the drives of its groups and reaches its host', () => {
    const found = chain('volume', 'tickets-1');
    expect(found.drive).toHaveLength(10);
    expect(names(estate, 'port', found.port)).toEqual(['a4', 'a5', 'b4', 'b5']);
    expect(names(estate, 'network', found.network)).toEqual(['iscsi-a', 'iscsi-b']);
    expect(names(estate, 'host', found.host)).toEqual(['gate-1']);
    expect(found.broken).toBe(0);
    expect(found.links).toContainEqual({ from: idOf(estate, 'pool', 'quay'), to: idOf(estate, 'volume', 'tickets-1') });
  });

  test('a port keeps only its own paths, a host only its own volumes, an interface only its network', () => {
    expect(names(estate, 'port', chain('port', 'a4').port)).toEqual(['a4']);
    expect(names(estate, 'interface', chain('port', 'a4').interface)).toEqual(['eth0']);
    expect(names(estate, 'volume', chain('host', 'gate-1').volume)).toEqual(['tickets-1', 'tickets-2']);
    expect(names(estate, 'network', chain('interface', 'eth1').network)).toEqual(['iscsi-b']);
    expect(names(estate, 'interface', chain('network', 'iscsi-b').interface)).toEqual(['eth1']);
  });

  test('what carries nothing stands alone', () => {
    expect(chain('volume', 'idle')).toMatchObject({ port: [], host: [], network: [] });
    expect(chain('port', 'a6')).toMatchObject({ volume: [], port: [idOf(estate, 'port', 'a6')] });
    const free = [...estate.table('drive').values()].find((drive) => !drive.raidGroup)!;
    expect(chainOf(estate, { kind: 'drive', id: free.id })).toMatchObject({
      drive: [free.id],
      raidGroup: [],
      links: [],
    });
  });

  test('a drive lights its group and all that rests on it', () => {
    const member = [...estate.table('drive').values()].find(
      (drive) => drive.raidGroup === idOf(estate, 'raidGroup', 'rg-1'),
    )!;
    const found = chainOf(estate, { kind: 'drive', id: member.id });
    expect(found.drive).toEqual([member.id]);
    expect(names(estate, 'volume', found.volume)).toEqual(['tickets-1', 'tickets-2']);
  });

  test('a broken way is marked, unless another way over the same line is whole', () => {
    const broken = estateAfter(mapped);
    const eth0 = [...broken.table('interface').values()].find((row) => row.name === 'eth0')!;
    broken.apply([changed('interface', eth0, { state: 'down' })]);
    const found = chainOf(broken, { kind: 'volume', id: idOf(broken, 'volume', 'tickets-1') });
    expect(found.broken).toBe(2);
    expect(found.links.filter((link) => link.broken).map((link) => link.to)).toContain(eth0.id);
  });

  test('every kind can be asked, and a thing that is gone is known to be gone', () => {
    for (const kind of selectableKinds) {
      const [row] = [...estate.table(kind).values()];
      expect(chainOf(estate, { kind, id: row!.id }).selection.kind).toBe(kind);
      expect(factsOf(estate, { kind, id: row!.id }).name).not.toBe('');
    }
    expect(exists(estate, { kind: 'volume', id: 'vol_gone' })).toBe(false);
  });
});

describe('the drawing’s figures', () => {
  const estate = estateAfter(mounted);
  const model = spanModel(estate);
  const array = model.arrays.find((one) => one.name === 'lintel-1')!;
  test('agree with the estate', () => {
    expect(model.totals).toMatchObject({ drives: 180, raidGroups: 1, pools: 1, volumes: 2, hosts: 1 });
    expect(array.enclosures[0]).toMatchObject({ free: 14, brackets: [{ name: 'rg-1', from: 0, to: 9 }] });
    expect(array.volumes.map((volume) => [volume.name, volume.paths, volume.post])).toEqual([
      ['tickets-1', { usable: 4, expected: 4 }, 'stands'],
      ['tickets-2', { usable: 4, expected: 4 }, 'stands'],
    ]);
    expect(array.groups[0]!.post).toBe('in work');
    expect(model.hosts[0]).toMatchObject({ mapped: 2, devices: 2, mounted: 1, post: 'stands' });
    expect(array.ports.find((port) => port.name === 'a4')).toMatchObject({ tag: 'IS', logins: 1 });
  });
  test('lean when paths are missing, and break when none is left', () => {
    const hurt = estateAfter(mapped);
    const interfaces = [...hurt.table('interface').values()].filter((row) => row.host !== null);
    hurt.apply([changed('interface', interfaces[0]!, { state: 'down' })]);
    expect(spanModel(hurt).hosts[0]!.post).toBe('leans');
    hurt.apply([changed('interface', interfaces[1]!, { state: 'down' })]);
    expect(spanModel(hurt).arrays.flatMap((one) => one.volumes.map((volume) => volume.post))).toEqual([
      'broken',
      'broken',
    ]);
    expect(spanModel(hurt).faults).toHaveLength(2);
  });
});

describe('facts', () => {
  const estate = estateAfter(mounted);
  const facts = (kind: SelectableKind, name: string) => factsOf(estate, { kind, id: idOf(estate, kind, name) });
  const text = (told: ReturnType<typeof factsOf>) => JSON.stringify(told.cells);
  test('say what a volume rests on and who reaches it', () => {
    expect(text(facts('volume', 'tickets-1'))).toContain('10 drives in 1 enclosure, through rg-1');
    expect(text(facts('volume', 'tickets-1'))).toContain('gate-1 LUN 0, 4/4');
    expect(text(facts('volume', 'tickets-1'))).toContain('disk1 at /srv/tickets');
    expect(text(facts('volume', 'tickets-2'))).toContain('disk2, blank');
  });
  test('offer the verbs that make sense', () => {
    expect(facts('pool', 'quay').verbs.map((verb) => verb.do)).toEqual([
      'volume.create',
      'pool.extend',
      'pool.configure',
    ]);
    expect(facts('host', 'gate-1').verbs.map((verb) => verb.do)).toEqual([
      'storage.give',
      'mapping.create',
      'host',
      'host.rescan',
      'trace',
      'mapping.delete',
    ]);
    expect(
      factsOf(estateAfter(smallChain), { kind: 'host', id: idOf(estateAfter(smallChain), 'host', 'gate-1') }).verbs.map(
        (verb) => verb.do,
      ),
    ).toContain('host.delete');
  });
});

describe('search', () => {
  test('looks through every kind that is declared as one people look for, by each of its names', () => {
    const { estate: demo } = demoEstate();
    const declared = kinds.filter((kind) => kindOf[kind].searched);
    expect(new Set(declared)).toEqual(soughtKinds);
    for (const kind of declared)
      for (const field of Object.keys(kindOf[kind].searched!)) {
        const texts = [...demo.table(kind).values()].map((row) => row[field as never] as string | null);
        const text = texts.find((value) => value !== null);
        expect([kind, field, text === undefined || search(demo, text).length > 0]).toEqual([kind, field, true]);
      }
  });

  test('follows rows that come, change and go', () => {
    const estate = estateAfter(mapped);
    const found = (text: string) => search(estate, text).map((hit) => hit.name);
    const volume = [...estate.table('volume').values()][0]!;
    expect(found('renamed')).toEqual([]);
    estate.apply([changed('volume', volume, { name: 'renamed' })]);
    expect(found('renamed')).toEqual(['renamed']);
    expect(found(volume.name)).not.toContain(volume.name);
    const more = Array.from({ length: 600 }, (_, k) =>
      created('volume', { ...volume, id: `vol_${k}`, name: `more-${k}`, naa: `6${String(k).padStart(31, '0')}` }),
    );
    estate.apply(more);
    expect(found('more-599')).toEqual(['more-599']);
    estate.apply([deleted('volume', more[3]!.after as never)]);
    expect(found('more-3').slice(0, 2)).toEqual(['more-30', 'more-31']);
    expect(found('more-599')).toEqual(['more-599']);
    estate.apply([deleted('volume', more[599]!.after as never)]);
    expect(found('more-599')).toEqual([]);
  });

  const estate = estateAfter(mapped);
  const found = (text: string) => search(estate, text).map((hit) => `${hit.kind} ${hit.name}`);
  const volume = [...estate.table('volume').values()][0]!;
  test('finds by name, best first', () => expect(found('tick')).toEqual(['volume tickets-1', 'volume tickets-2']));
  test('finds by IQN, address, slot, serial and NAA name however written', () => {
    expect(found('skarholt:gate-1')).toEqual(['host gate-1']);
    expect(found('10.40.1.51')).toEqual(['interface eth0']);
    expect(found('0:13')).toEqual(['drive 0:13', 'drive 0:13', 'drive 0:13']);
    expect(found('2:11')).toEqual(['drive 2:11', 'drive 2:11']);
    expect(found(volume.serial)).toEqual([`volume ${volume.name}`]);
    expect(found(`naa.${volume.naa.toUpperCase()}`)).toEqual([`volume ${volume.name}`]);
    expect(found(volume.naa.replace(/..(?!$)/g, '$&:'))).toEqual([`volume ${volume.name}`]);
  });
  test('finds aliases, zones, zone sets, clusters, workloads, mount points, FCIDs, and a slot with its array', () => {
    const { estate: demo } = demoEstate();
    const in_ = (text: string) => search(demo, text, 50);
    const names = (text: string) => in_(text).map((hit) => `${hit.kind} ${hit.name}`);
    const [alias] = [...demo.table('alias').values()];
    expect(names(alias!.name)).toContain(`alias ${alias!.name}`);
    expect(in_(alias!.name).find((hit) => hit.kind === 'alias')!.marks).toEqual({ kind: 'fabric', id: alias!.fabric });
    const [zoneSet] = [...demo.table('zoneSet').values()];
    expect(names(zoneSet!.name)).toContain(`zoneSet ${zoneSet!.name}`);
    expect(names('deck')).toContain('cluster deck');
    const [workload] = [...demo.table('workload').values()];
    expect(names(workload!.name)).toContain(`workload ${workload!.name}`);
    const mounted = [...demo.table('hostDevice').values()].find((row) => row.mountPoint)!;
    expect(names(mounted.mountPoint!)).toContain(`host ${demo.table('host').get(mounted.host)!.name}`);
    const port = [...demo.table('interface').values()].find((row) => row.switch !== null && row.host !== null)!;
    expect(names(fcid(hostDevice(demo, port)!))).toContain(`interface ${port.name}`);
    expect(in_('lintel-1 0:4')).toMatchObject([
      { kind: 'drive', name: '0:4', where: expect.stringContaining('lintel-1') as string },
    ]);
  });
  test('nothing for nothing', () => {
    expect(found('  ')).toEqual([]);
    expect(found('no such thing')).toEqual([]);
  });
});

test('the chain of a volume that is copied runs over to the other site', () => {
  const at = copying();
  at.pass(HOUR);
  const row = named(at.estate, 'replication', 'Ticketing');
  const [own] = row.primaries;
  const [there] = row.secondaries;
  for (const id of [own!, there!]) {
    const chain = chainOf(at.estate, { kind: 'volume', id });
    expect(chain.volume.sort()).toEqual([own, there].sort());
    expect(chain.array.map((array) => at.estate.table('array').get(array)!.name).sort()).toEqual([
      'lintel-1',
      'lintel-2',
    ]);
  }
  at.run({ do: 'replication.remove', replication: 'Ticketing', confirm: 'Ticketing' });
  expect(chainOf(at.estate, { kind: 'volume', id: own! }).volume).toEqual([own]);
});
