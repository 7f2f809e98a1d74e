import { demoEstate } from '../../../demo/scenario';
import { iqn } from '../../../demo/names';
import { basis, carryOut, codesOf, named } from '../../../demo/workbench';
import { randomFrom } from '../estate/random';
import { randomOperation } from '../../../torture/random-operation';
import { planChange } from './plan';
import { operationTypes } from './registry';

const { estate } = demoEstate();
const configures = operationTypes.filter((type) => type.kind.endsWith('.configure'));

/** Fields that say which thing is changed, not how. */
const naming = new Set([
  'array',
  'host',
  'fabric',
  'name',
  'port',
  'interface',
  'volume',
  'volumes',
  'device',
  'initiator',
  'drive',
  'do',
]);

describe('what a change does not name stays as it is', () => {
  test.each(configures.map((type) => [type.kind, type] as const))('%s', (_kind, type) => {
    const random = randomFrom(`configure ${type.kind}`);
    let planned = 0;
    for (let k = 0; k < 60 && planned < 4; k++) {
      const drawn = randomOperation(estate, basis, random, type);
      const bare = Object.fromEntries(Object.entries(drawn).filter(([field]) => naming.has(field))) as typeof drawn;
      const { steps, refusals } = planChange(estate, [bare], basis);
      // A thing that is not there, or one that the draw names only half, is refused.
      if (refusals.length > 0) continue;
      planned += 1;
      const moved = steps
        .flatMap((step) => step.effects)
        .filter(({ before, after }) => JSON.stringify(before) !== JSON.stringify(after));
      expect(moved).toEqual([]);
    }
  });
});

describe('domains and their sets', () => {
  const made = () => {
    const one = demoEstate().estate;
    carryOut(
      one,
      [
        {
          do: 'discovery-domain.create',
          name: 'lab-day',
          members: ['gate-1', 'lintel-1'],
          portals: ['10.40.1.11:3260'],
        },
        { do: 'domain-set.create', name: 'lab-set', domains: ['lab-day'], enabled: false },
      ],
      'domains',
    );
    return one;
  };
  test('naming only the portals leaves the members, naming only the domains leaves a set off', () => {
    const one = made();
    const before = named(one, 'discoveryDomain', 'lab-day');
    carryOut(one, [{ do: 'discovery-domain.configure', name: 'lab-day', portals: [] }], 'portals');
    expect(named(one, 'discoveryDomain', 'lab-day')).toMatchObject({ members: before.members, portals: [] });
    expect(before.members).toContain(iqn('gate-1'));
    carryOut(one, [{ do: 'domain-set.configure', name: 'lab-set', domains: [] }], 'set');
    expect(named(one, 'domainSet', 'lab-set')).toMatchObject({ domains: [], enabled: false });
  });
});

test('a rename that changes capitals alone is no name taken by another', () => {
  const one = demoEstate().estate;
  const zone = [...one.table('zone').values()][0]!;
  const group = one.table('raidGroup').by('array', named(one, 'array', 'lintel-1').id)[0]!;
  expect(codesOf(one, { do: 'host.configure', host: 'gate-1', newName: 'Gate-1' })).toEqual([]);
  expect(codesOf(one, { do: 'pool.configure', array: 'lintel-1', name: 'quay', newName: 'Quay' })).toEqual([]);
  expect(
    codesOf(one, {
      do: 'raid-group.configure',
      array: 'lintel-1',
      name: group.name,
      newName: group.name.toUpperCase(),
    }),
  ).toEqual([]);
  expect(codesOf(one, { do: 'volume.configure', array: 'lintel-1', volumes: ['scanner'], newName: 'Scanner' })).toEqual(
    [],
  );
  expect(
    codesOf(one, {
      do: 'zone.configure',
      fabric: one.table('fabric').get(zone.fabric)!.name,
      name: zone.name,
      newName: zone.name.toUpperCase(),
    }),
  ).toEqual([]);
});

test('an uplink whose use is misspelt, or that is named twice, is refused and never taken as active', () => {
  const one = (...uplinks: string[]) =>
    codesOf(estate, { do: 'interface.configure', host: 'gate-1', interface: 'eth0', uplinks });
  expect(one('up1', 'up2 standy')).toContain('uplink-use-unknown');
  expect(one('up1', 'up1 standby')).toContain('uplink-twice');
  expect(one('up1', 'up2 standby', 'up3 unused')).toEqual([]);
});

describe('a change of nothing', () => {
  const called = (newName: string) => ({
    do: 'volume.configure',
    array: 'lintel-1',
    volumes: ['tickets'],
    newName,
  });

  test('is refused, and names what it was to change', () => {
    const { refusals } = planChange(estate, [called('tickets')], basis);
    expect(refusals.map(({ code, message }) => [code, message])).toEqual([
      ['nothing-changes', '"Change tickets on lintel-1" would change nothing: what it names is so already.'],
    ]);
  });

  test('goes where another of the same change makes it one of something', () => {
    expect(codesOf(estate, called('tickets-9'), called('tickets'))).toEqual(['volume-unknown']);
    const again = { ...called('tickets'), volumes: ['tickets-9'] };
    expect(planChange(estate, [called('tickets-9'), again], basis).refusals).toEqual([]);
  });

  test('does not tell whether a secret is the one that is kept', () => {
    const enter = { do: 'host.configure', host: 'gate-1', chapSecret: 'sealed:ffeeddccbbaa99887766554433221100' };
    const one = demoEstate().estate;
    carryOut(one, [enter], 'secret');
    expect(planChange(one, [enter], basis).refusals).toEqual([]);
  });
});
