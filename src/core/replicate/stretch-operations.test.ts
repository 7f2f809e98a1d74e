import { lineRate } from './line';
import { hostsOver } from './line-load';
import { mappingOf, pathFinder } from '../attach/paths';
import { planChange } from '../change/plan';
import { planUndo } from '../change/undo';
import type { OperationDocument } from '../change/registry';
import type { FaultKind } from '../lab/fault-kinds';
import { clearFault, setFault } from '../lab/faults';
import { changed } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import { lookUp } from '../operation/inquiry';
import { brokenRules } from '../rules/book';
import { HOUR, MINUTE, SECOND } from '../units/duration';
import { deckStage, stretch, stretched, uniform } from '../../../demo/stretched';
import { lines } from '../../../demo/elsewhere';
import type { Stage } from '../../../demo/protected';
import { basis, differences, named } from '../../../demo/workbench';
import { twoSiteChecks } from './check-list';

const ids = newIds('stretch operations');
const row = ({ estate }: Stage) => lookUp(estate, 'replication', 'Virtual deck')!;
const volume = (at: Stage, name = 'stores') => named(at.estate, 'volume', name);
const refusals = (at: Stage, ...operations: OperationDocument[]) =>
  planChange(at.estate, operations, { ...basis, now: at.now, seed: 'asked' }).refusals;
const refusal = (at: Stage, operation: OperationDocument) => refusals(at, operation)[0];
const fault = (at: Stage, kind: FaultKind, id: string, up = false) => {
  const done = (up ? clearFault : setFault)(at.estate, kind, id, at.now, ids);
  if (!done.ok) throw new Error(done.refusals[0]!.message);
  at.estate.apply(done.effects);
};
const site = (at: Stage, name: string, up = false) => fault(at, 'site-down', named(at.estate, 'site', name).id, up);
const device = (at: Stage, host: string) =>
  at.estate
    .table('hostDevice')
    .by('host', named(at.estate, 'host', host).id)
    .find(({ naa }) => naa !== '')!;
const unmapLeg = { do: 'mapping.delete', cluster: 'deck', array: 'lintel-2', volumes: ['stores-leg'] };
const unmapFirst = { do: 'mapping.delete', cluster: 'deck', array: 'lintel-1', volumes: ['stores'] };
const dissolve = { do: 'stretch.dissolve', replication: 'Virtual deck', confirm: 'Virtual deck' };

describe('stretching', () => {
  test('a witness at one of the sites, or out of reach of one, is refused with what would mend it', () => {
    const at = deckStage({ do: 'witness.create', name: 'near', site: 'Nordkai' });
    expect(refusal(at, { ...stretch, witness: 'near' })).toMatchObject({
      code: 'stretched-witness-domain',
      field: 'witness',
      subject: { name: 'near' },
    });
    at.run({ do: 'site-link.delete', link: 'Molenhaven to Oever' });
    expect(refusal(at, stretch)).toMatchObject({
      code: 'stretched-witness-unreached',
      offer: { do: 'site-link.create', params: { from: 'Molenhaven', to: 'Oever' } },
    });
    expect(at.codes({ ...stretch, witness: 'nobody' })).toEqual(['witness-unknown']);
  });

  test('a line that costs a write too much, a site that is none of both, and what is stretched already are refused', () => {
    const at = deckStage(...lines.filter(({ name }) => name === 'leased line'));
    expect(at.codes({ ...stretch, link: 'leased line' })).toEqual(['sync-latency-budget']);
    expect(at.codes({ ...stretch, link: 'leased line', budget: 'none' })).toEqual([]);
    expect(refusal(at, { ...stretch, preferred: 'Oever' })).toMatchObject({
      code: 'stretched-site-unknown',
      mend: 'Say Nordkai or Molenhaven.',
    });
    expect(at.codes({ ...stretch, to: 'lintel-1' })).toContain('replication-one-site');
    at.run(stretch);
    expect(at.codes(stretch)).toContain('replication-overlap');
  });

  test('both legs are shown under one LUN', () => {
    const at = deckStage(stretch);
    const [leg] = uniform;
    expect(refusal(at, { ...leg!, lun: 7 })).toMatchObject({ code: 'stretched-lun-differs', field: 'lun' });
    at.run(leg!);
    const luns = [...at.estate.table('mapping').values()]
      .filter((one) => [volume(at).id, volume(at, 'stores-leg').id].includes(one.volume))
      .map(({ lun }) => lun);
    expect(new Set(luns).size).toBe(1);
    expect(luns).toHaveLength(4);
  });

  test('nor is one changed to another', () => {
    const at = stretched();
    const change = { do: 'mapping.configure', host: 'deck-3', array: 'lintel-2', volume: 'stores-leg', lun: 9 };
    expect(at.codes(change)).toContain('stretched-lun-differs');
    const mapping = mappingOf(at.estate, named(at.estate, 'host', 'deck-3').id, volume(at, 'stores-leg').id)!;
    at.estate.apply([changed('mapping', mapping, { lun: 9 })]);
    expect(brokenRules(at.estate).map(({ code }) => code)).toContain('stretched-lun-differs');
  });

  test('whoever is no member of the cluster may write to neither leg', () => {
    const at = stretched();
    expect(at.codes({ do: 'mapping.create', host: 'gate-1', array: 'lintel-2', volumes: ['stores-leg'] })).toEqual([
      'shared-unclustered',
    ]);
  });
});

describe('what stands', () => {
  test('is no replication with a source and a target', () => {
    const at = stretched();
    for (const operation of [
      { do: 'replication.pause', replication: 'Virtual deck' },
      { do: 'replication.switch', replication: 'Virtual deck', stopped: true },
      { do: 'replication.failover', replication: 'Virtual deck', confirm: 'Virtual deck' },
      { do: 'replication.configure', replication: 'Virtual deck', budget: '9' },
      { do: 'replication.extend', replication: 'Virtual deck' },
      { do: 'replication.remove', replication: 'Virtual deck', confirm: 'Virtual deck' },
    ])
      expect(refusal(at, operation)).toMatchObject({
        code: 'replication-stretched',
        offer: { do: 'stretch.dissolve', params: { replication: 'Virtual deck' } },
      });
    expect(at.codes({ ...dissolve, keep: 'Nordkai', replication: 'Ticketing' })).toEqual(['replication-unknown']);
  });

  test('neither leg is deleted, and both grow together', () => {
    const at = stretched();
    for (const [array, name] of [
      ['lintel-1', 'stores'],
      ['lintel-2', 'stores-leg'],
    ] as const)
      expect(
        refusals(at, { do: 'volume.delete', array, volumes: [name], confirm: [name] }).find(
          ({ code }) => code === 'replication-side',
        )!.offer,
      ).toMatchObject({ do: 'stretch.dissolve' });
    at.run({ do: 'volume.resize', array: 'lintel-1', volumes: ['stores'], size: '300 GiB' });
    expect(volume(at, 'stores-leg').size).toBe(volume(at).size);
    expect(twoSiteChecks(at.estate, row(at)).every(({ holds, asks }) => holds || asks.startsWith('A plan'))).toBe(true);
  });

  test('its line to the witness and its witness are kept', () => {
    const at = stretched();
    expect(at.codes({ do: 'site-link.delete', link: 'Nordkai to Oever' })).toEqual(['link-used']);
    expect(at.codes({ do: 'witness.delete', witness: 'oever-1' })).toEqual(['witness-used']);
    expect(at.codes({ do: 'witness.configure', witness: 'oever-1', site: 'Molenhaven' })).toEqual([
      'stretched-witness-domain',
    ]);
    at.run({ do: 'witness.configure', witness: 'oever-1', newName: 'cellar', notes: 'moved' });
    expect(named(at.estate, 'witness', 'cellar').notes).toBe('moved');
  });

  test('who goes first and who decides changes while both serve, and then alone', () => {
    const at = stretched({ do: 'witness.create', name: 'oever-2', site: 'Oever' });
    const change = { do: 'stretch.configure', replication: 'Virtual deck' };
    at.run({ ...change, preferred: 'Molenhaven', witness: 'oever-2' });
    expect(row(at).stretch!.pair).toMatchObject({ preferred: 'B', W: { owner: 'both', epoch: 2 } });
    at.run({ do: 'witness.delete', witness: 'oever-1' });
    fault(at, 'site-link-down', named(at.estate, 'siteLink', 'dark fibre').id);
    at.pass(10 * SECOND);
    expect(row(at)).toMatchObject({ source: 'S', state: 'broken' });
    expect(at.codes({ ...change, preferred: 'Nordkai' })).toEqual(['stretched-not-whole']);
    at.run({ ...change, budget: '9' });
    expect(row(at).budget).toBe(9);
  });
});

describe('taking a leg away', () => {
  test('the first stays under its identity once nobody sees the second; the data of both stays', () => {
    const at = stretched();
    const { naa } = volume(at);
    expect(refusal(at, { ...dissolve, keep: 'Nordkai' })).toMatchObject({
      code: 'stretched-leg-mapped',
      offer: { do: 'mapping.delete', params: { cluster: 'deck', array: 'lintel-2', volumes: ['stores-leg'] } },
    });
    at.run(unmapLeg);
    expect(at.codes({ ...dissolve, keep: 'Nordkai', confirm: 'no' })).toEqual(['replication-confirm-remove']);
    at.run({ ...dissolve, keep: 'Nordkai' });
    expect(lookUp(at.estate, 'replication', 'Virtual deck')).toBeUndefined();
    expect(volume(at).naa).toBe(naa);
    expect(volume(at, 'stores-leg').written).toBe(volume(at).written);
    expect(device(at, 'deck-1')).toMatchObject({ mountPoint: '/stores/deck', naa });
    expect(brokenRules(at.estate)).toEqual([]);
  });

  test('the identity moves to the second where that goes on, with hosts at work', () => {
    const at = stretched();
    at.run({ do: 'host.rescan', host: 'deck-3' });
    const { naa } = volume(at);
    expect(at.codes({ ...dissolve, keep: 'Molenhaven' })).toEqual(['stretched-leg-mapped']);
    at.run(unmapFirst, { ...dissolve, keep: 'Molenhaven' });
    expect(volume(at, 'stores-leg').naa).toBe(naa);
    expect(volume(at).naa).not.toBe(naa);
    expect(device(at, 'deck-1')).toMatchObject({ volume: volume(at, 'stores-leg').id, mountPoint: '/stores/deck' });
    const found = pathFinder(at.estate).of({ host: device(at, 'deck-1').host, volume: volume(at, 'stores-leg').id });
    expect(found.usable).toBe(4);
    expect(brokenRules(at.estate)).toEqual([]);
  });

  test('never the leg that does not hold what was written last', () => {
    const at = stretched();
    site(at, 'Nordkai');
    at.pass(10 * SECOND);
    site(at, 'Nordkai', true);
    at.pass(SECOND);
    expect(at.codes({ ...dissolve, keep: 'Nordkai' })).toEqual(['stretched-keeps-silent']);
    const begun = deckStage(stretch);
    expect(begun.codes({ ...dissolve, keep: 'Molenhaven' })).toEqual([
      'stretched-keeps-silent',
      'replication-no-consistent-image',
    ]);
  });

  test('a silent leg whose other site is gone for good is offered under a new identity', () => {
    const at = stretched();
    fault(at, 'witness-down', named(at.estate, 'witness', 'oever-1').id);
    at.pass(MINUTE);
    site(at, 'Nordkai');
    at.pass(MINUTE);
    expect(refusal(at, { ...dissolve, keep: 'Molenhaven' })).toMatchObject({
      code: 'in-use',
      offer: { do: 'host-device.unmount', params: { host: 'deck-1' } },
    });
    at.run({ do: 'host-device.unmount', host: 'deck-1', device: 'stores' });
    at.run({ ...dissolve, keep: 'Molenhaven' });
    at.run({ do: 'host.rescan', host: 'deck-3' });
    const [found] = at.estate.table('hostDevice').by('volume', volume(at, 'stores-leg').id);
    expect(found!.naa).toBe(volume(at, 'stores-leg').naa);
    expect(found!.naa).not.toBe(volume(at).naa);
    expect(found!.fileSystem).toBe('gfs2');
    expect(brokenRules(at.estate)).toEqual([]);
  });
});

test('forcing is refused while both see each other, for who serves, and for a site that is off', () => {
  const at = stretched();
  const force = { do: 'stretch.force', replication: 'Virtual deck', off: 'hosts-off', confirm: 'Virtual deck' };
  expect(refusal(at, { ...force, site: 'Nordkai' })).toMatchObject({
    code: 'stretched-force-peer-reachable',
    message: 'The sites see each other; there is nothing to force.',
  });
  site(at, 'Nordkai');
  at.pass(10 * SECOND);
  expect(refusal(at, { ...force, site: 'Nordkai' })).toMatchObject({
    code: 'stretched-force-site-down',
    message: 'Nordkai itself is off.',
  });
  expect(refusal(at, { ...force, site: 'Molenhaven' })).toMatchObject({ code: 'stretched-already-serving' });
  expect(at.codes({ ...force, site: 'Oever' })).toEqual(['stretched-site-unknown']);
  site(at, 'Nordkai', true);
  at.pass(10 * MINUTE);
  fault(at, 'site-link-down', named(at.estate, 'siteLink', 'dark fibre').id);
  at.pass(10 * SECOND);
  // Said to be off, and hosts still work there.
  expect(refusal(at, { ...force, site: 'Molenhaven' })).toMatchObject({
    code: 'stretched-force-peer-serves',
    message: 'Nordkai still serves Virtual deck alone: two versions of the data would arise.',
  });
  expect(at.codes({ ...force, replication: 'nothing', site: 'Nordkai' })).toEqual(['replication-unknown']);
});

test('the check-list tells what is missing, and how to mend it', () => {
  const at = deckStage(stretch);
  at.pass(HOUR);
  const failing = () => twoSiteChecks(at.estate, row(at)).filter(({ holds }) => !holds);
  expect(failing().map(({ asks }) => asks)).toEqual(['A host at Molenhaven sees it', 'A plan makes copies of it']);
  expect(failing()[0]!.mend).toMatchObject({
    do: 'mapping.create',
    params: { array: 'lintel-2', volumes: ['stores-leg'] },
  });
  at.run(...uniform);
  expect(failing().map(({ asks }) => asks)).toEqual(['A plan makes copies of it']);
});

test.each([
  ['stretching', () => deckStage(), [stretch, ...uniform]],
  [
    'another preferred site',
    () => stretched(),
    [{ do: 'stretch.configure', replication: 'Virtual deck', preferred: 'Molenhaven' }],
  ],
])('%s is undone without a trace', (_what, make, operations) => {
  const at = make();
  const plan = planChange(at.estate, operations, { ...basis, now: at.now, seed: 'back' });
  expect(plan.refusals).toEqual([]);
  const undone = planUndo(plan.overlay, plan.steps);
  expect(undone.refusals).toEqual([]);
  expect(differences(undone.overlay, at.estate)).toEqual([]);
});

test('legs that went apart are not made one again by undoing', () => {
  const at = stretched(unmapLeg);
  const plan = planChange(at.estate, [{ ...dissolve, keep: 'Nordkai' }], { ...basis, now: at.now, seed: 'back' });
  expect(planUndo(plan.overlay, plan.steps).refusals.map(({ code }) => code)).toEqual(['destroyed']);
});

describe('inter-switch links over a line', () => {
  test('fall with it and come back with it; each runs over one line alone, and joins its sites', () => {
    const at = deckStage();
    const state = (name: string) => named(at.estate, 'isl', name).state;
    const [first] = named(at.estate, 'siteLink', 'dark fibre').isls;
    const name = at.estate.table('isl').get(first!)!.name;
    const fibre = named(at.estate, 'siteLink', 'dark fibre').id;
    fault(at, 'site-link-down', fibre);
    expect(state(name)).toBe('down');
    fault(at, 'site-link-down', fibre, true);
    expect(state(name)).toBe('up');
    const other = { do: 'site-link.create', name: 'third way', from: 'Nordkai', to: 'Molenhaven', speed: '1 Gb/s' };
    expect(at.codes({ ...other, isls: [name] })).toEqual(['isl-carried']);
    expect(at.codes({ ...other, to: 'Oever', isls: [name] })).toContain('isl-elsewhere');
    at.run({ do: 'site-link.configure', link: 'dark fibre', isls: [] }, { ...other, isls: [name] });
    expect(named(at.estate, 'siteLink', 'third way').isls).toEqual([first]);
  });

  test('what hosts send by them goes before what is copied', () => {
    const at = deckStage();
    const far = named(at.estate, 'host', 'deck-3').id;
    const [seen] = at.estate.table('hostDevice').by('host', far);
    at.estate.apply([changed('hostDevice', seen!, { mountPoint: '/stores/deck', writeRate: 200 * 2 ** 20 })]);
    const link = named(at.estate, 'siteLink', 'dark fibre');
    const over = hostsOver(at.estate, link);
    // Half of it goes over the other link of each fabric.
    expect(over).toBeGreaterThan(50 * 2 ** 20);
    expect(hostsOver(at.estate, { ...link, isls: [] })).toBe(0);
    at.run(stretch);
    at.pass(SECOND);
    expect(row(at).carrying!.rate).toBeLessThanOrEqual(lineRate(link).bytesPerS - over + 1);
  });
});
