import { bareEstate, codesOf } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import { auditFabric } from './audit';
import { wwpn, registered, attached, after, fabricNamed } from './fabric.fixture';

describe('audit', () => {
  const kindsOf = (operations: object[]) => {
    const estate = after([...attached, ...operations] as never);
    return auditFabric(estate, fabricNamed(estate, 'A')).map((line) => line.kind);
  };
  const hba = (server: string) => wwpn(server, 'hba0');
  const make = (name: string, members: string[]) => ({ do: 'zone.create', fabric: 'A', name, members });
  test('a clean fabric has nothing to mend', () => expect(kindsOf([])).toEqual([]));
  test.each<[string, object[]]>([
    ['zone-many-initiators', [make('z_two', [hba('deck-1'), hba('deck-2'), 'lintel-1_a0'])]],
    ['zone-one-member', [make('z_one', [hba('deck-1')])]],
    ['zone-no-target', [make('z_none', [hba('deck-1'), hba('deck-2')])]],
    ['zone-stale-member', [make('z_gone', [hba('deck-1'), 'lintel-1_a0', '50:00:00:00:00:00:00:01'])]],
    [
      'zone-member-near-miss',
      [make('z_near', [hba('deck-1').replace(/.$/, (digit) => (digit === '0' ? '1' : '0')), 'lintel-1_a0'])],
    ],
    ['zone-duplicate', [make('z_same', ['cargo-db-1_hba0', 'lintel-1_a0', 'lintel-1_b0'])]],
    ['zone-mixed-members', [make('z_mixed', ['cargo-db-1_hba0', '1,8', 'lintel-1_a0'])]],
    ['alias-unused', [{ do: 'alias.create', fabric: 'A', name: 'old_hba', members: [hba('deck-1')] }]],
    ['default-zone-permit', [{ do: 'fabric.configure', fabric: 'A', defaultZone: 'permit' }]],
    ['defined-differs-from-active', [make('z_new', [hba('deck-1'), 'lintel-1_a0'])]],
    [
      'zone-without-mapping',
      [registered('deck-1'), { do: 'zoning.join', fabric: 'A', host: 'deck-1', array: 'purlin-1' }],
    ],
  ])('%s appears', (kind, operations) => expect(kindsOf(operations)).toContain(kind));
});

describe('refused in words', () => {
  test.each<[string, object]>([
    ['bad-zone-name', { do: 'zone.create', fabric: 'A', name: '9z', members: ['1,0'] }],
    ['alias-undefined', { do: 'zone.create', fabric: 'A', name: 'z', members: ['nobody_hba0'] }],
    ['name-taken', { do: 'zone.create', fabric: 'A', name: 'lintel-1_a0', members: ['1,0'] }],
    ['peer-without-principal', { do: 'zone.create', fabric: 'A', name: 'z', kind: 'peer', members: ['1,0'] }],
    ['alias-nested', { do: 'alias.create', fabric: 'A', name: 'x', members: ['lintel-1_a0'] }],
    ['alias-in-use', { do: 'alias.delete', fabric: 'A', name: 'lintel-1_a0' }],
    ['zone-set-active', { do: 'zone-set.delete', fabric: 'A', name: 'set_A' }],
    ['pattern-too-poor', { do: 'fabric.configure', fabric: 'A', zonePattern: 'zone' }],
    ['zone-unknown', { do: 'zone.delete', fabric: 'A', name: 'z_nowhere' }],
  ])('%s', (code, operation) => expect(codesOf(after(attached), operation as never)).toContain(code));

  test('a node name given for a port is told whose it is', () => {
    const estate = bareEstate();
    const node = estate.table('interface').by('wwpn', wwpn('deck-1', 'hba0'))[0]!.wwnn!;
    expect(codesOf(estate, { do: 'zone.create', fabric: 'A', name: 'z', members: [node] })).toEqual([
      'node-name-not-port-name',
    ]);
    expect(
      codesOf(estate, { do: 'host.create', name: 'deck-1', os: 'hypervisor', site: 'Nordkai', initiators: [node] }),
    ).toEqual(['node-name-not-port-name']);
  });

  test('a set without a zone, and one with an empty alias, are not activated', () => {
    const estate = after([...attached, { do: 'zone-set.create', fabric: 'A', name: 'empty' }] as never);
    expect(codesOf(estate, { do: 'zone-set.activate', fabric: 'A', zoneSet: 'empty' })).toEqual(['zone-set-empty']);
    const alias = [...estate.table('alias').values()].find((row) => row.name === 'lintel-1_a0')!;
    estate.apply([changed('alias', alias, { members: [] })]);
    expect(codesOf(estate, { do: 'zone-set.activate', fabric: 'A', zoneSet: 'set_A' })).toEqual(['alias-empty']);
  });
});
