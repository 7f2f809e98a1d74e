import fc from 'fast-check';
import { writeFile } from '../attach/files';
import { mappingOf, pathFinder } from '../attach/paths';
import { planChange } from '../change/plan';
import { dataOf, devicesOn, leadOf, legsOf, mappingsOf, shownAs } from '../copies/legs';
import type { OperationDocument } from '../change/registry';
import { changed } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import type { FaultKind } from '../lab/fault-kinds';
import { clearFault, setFault } from '../lab/faults';
import { oneIo } from '../lab/one-io';
import { lookUp } from '../operation/inquiry';
import { brokenRules } from '../rules/book';
import { GIB, MIB } from '../units/bytes';
import { MINUTE, SECOND } from '../units/duration';
import { outage } from '../whatif/outage';
import { componentsOf, findComponent } from '../whatif/components';
import { spofFinder } from '../whatif/spof';
import { deckStage, stretch, stretched, uniform } from '../../../demo/stretched';
import { stage as stageOf, type Stage } from '../../../demo/protected';
import { basis, named } from '../../../demo/workbench';
import { bytesAtRisk } from './carry';
import { replicationsHurt } from './after-outage';
import { siteLost } from './site-lost';
import { stretchView } from './stretch-view';
import { after } from '../whatif/outage';

const ids = newIds('stretched');
const row = ({ estate }: Stage) => lookUp(estate, 'replication', 'Virtual deck')!;
const pair = (at: Stage) => row(at).stretch!.pair;
const volume = (at: Stage, name = 'stores') => named(at.estate, 'volume', name);
const host = (at: Stage, name: string) => named(at.estate, 'host', name);
const device = (at: Stage, name = 'deck-1') =>
  at.estate
    .table('hostDevice')
    .by('host', host(at, name).id)
    .find((one) => one.volume === volume(at).id)!;
const fault = (at: Stage, kind: FaultKind, id: string, up = false) => {
  const done = (up ? clearFault : setFault)(at.estate, kind, id, at.now, ids);
  if (!done.ok) throw new Error(done.refusals[0]!.message);
  at.estate.apply(done.effects);
};
const site = (at: Stage, name: string, up = false) => fault(at, 'site-down', named(at.estate, 'site', name).id, up);
const fibre = (at: Stage, up = false) => fault(at, 'site-link-down', named(at.estate, 'siteLink', 'dark fibre').id, up);
const witness = (at: Stage, up = false) => fault(at, 'witness-down', named(at.estate, 'witness', 'oever-1').id, up);
const write = (at: Stage, path: string, by = 'deck-1') => {
  const done = writeFile(at.estate, device(at, by), { path, size: MIB }, at.now, ids);
  if (done.ok) at.estate.apply(done.effects);
  return done.ok ? 'written' : done.refusal.code;
};
const files = (at: Stage, leg: string) => volume(at, leg).files.map(({ path }) => path);
const paths = (at: Stage, name: string) =>
  pathFinder(at.estate)
    .of({ host: host(at, name).id, volume: volume(at).id })
    .found.map(({ port, state }) => `${at.estate.table('port').get(port)!.array === volume(at).array ? 1 : 2} ${state}`)
    .sort()
    .join(', ');
const refusals = (at: Stage, ...operations: OperationDocument[]) =>
  planChange(at.estate, operations, { ...basis, now: at.now, seed: 'asked' }).refusals;

describe('a second leg', () => {
  test('is made beside hosts at work: its paths come up when it is whole, and one device has them all', () => {
    const at = deckStage(stretch, ...uniform);
    expect(row(at)).toMatchObject({ state: 'copying', mode: 'sync', pit: null });
    expect(paths(at, 'deck-1')).not.toContain('2 optimized');
    expect(paths(at, 'deck-3')).toBe(
      '1 non-optimized, 1 non-optimized, 1 non-optimized, 1 non-optimized, 2 unavailable, 2 unavailable, 2 unavailable, 2 unavailable',
    );
    expect(write(at, 'before.img')).toBe('written');
    at.pass(10 * MINUTE);
    expect(row(at)).toMatchObject({ state: 'protected', source: 'P', image: true });
    expect(paths(at, 'deck-3')).toBe(
      '1 non-optimized, 1 non-optimized, 1 non-optimized, 1 non-optimized, 2 non-optimized, 2 non-optimized, 2 optimized, 2 optimized',
    );
    at.run({ do: 'host.rescan', host: 'deck-3' });
    expect(at.estate.table('hostDevice').by('volume', volume(at, 'stores-leg').id)).toEqual([]);
    expect(files(at, 'stores-leg')).toEqual(['before.img']);
    expect(brokenRules(at.estate)).toEqual([]);
  });

  test('bears the identity of the first: the same volume by either name', () => {
    const at = stretched();
    const [first, second] = [volume(at), volume(at, 'stores-leg')];
    expect(legsOf(at.estate, second.id)).toEqual([first.id, second.id]);
    expect(shownAs(at.estate, second.id)).toBe(first.id);
    expect(leadOf(at.estate, second.id)).toBe(first.id);
    expect(devicesOn(at.estate, first.id)).toHaveLength(2);
    expect(devicesOn(at.estate, second.id)).toEqual([]);
    expect(device(at, 'deck-3').naa).toBe(first.naa);
    expect(mappingsOf(at.estate, host(at, 'deck-1').id, first.id)).toHaveLength(2);
  });

  test('what is written stands at both, and new room is taken at both', () => {
    const at = stretched();
    at.estate.apply([changed('hostDevice', device(at), { writeRate: 20 * MIB })]);
    at.pass(10 * MINUTE);
    const [first, second] = [volume(at), volume(at, 'stores-leg')];
    expect(first.written).toBeGreaterThan(11 * GIB);
    expect(second.written).toBe(first.written);
    expect(bytesAtRisk(at.estate, row(at), at.now)).toBe(0);
  });
});

describe('when something is lost', () => {
  test('a site: the other goes on after 5 s, hosts there never lose the volume, and it comes back by itself', () => {
    const at = stretched();
    expect(write(at, 'one.img')).toBe('written');
    site(at, 'Nordkai');
    at.pass(SECOND);
    expect(pair(at).B).toMatchObject({ mode: 'BOTH', phase: 'RUN' });
    expect(write(at, 'early.img', 'deck-3')).not.toBe('written');
    at.pass(3 * SECOND);
    expect(paths(at, 'deck-3')).toContain('2 transitioning');
    at.pass(3 * SECOND);
    expect(row(at)).toMatchObject({ state: 'broken', source: 'S' });
    expect(write(at, 'two.img', 'deck-3')).toBe('written');
    expect(files(at, 'stores-leg')).toEqual(['one.img', 'two.img']);
    expect(files(at, 'stores')).toEqual(['one.img']);
    at.pass(10 * MINUTE);
    site(at, 'Nordkai', true);
    at.pass(SECOND);
    expect(row(at).state).toBe('copying');
    expect(pair(at).A.mode).toBe('STALE');
    expect(paths(at, 'deck-1')).toContain('1 unavailable');
    expect(pathFinder(at.estate).reaches({ host: host(at, 'deck-1').id, volume: volume(at).id })).toBe(true);
    at.pass(10 * MINUTE);
    expect(row(at)).toMatchObject({ state: 'protected', source: 'S' });
    expect(files(at, 'stores')).toEqual(['one.img', 'two.img']);
    expect(brokenRules(at.estate)).toEqual([]);
  });

  test('the link: the preferred site goes on, the other is silent, and a host beside it goes on over the first', () => {
    const at = stretched();
    fibre(at);
    at.pass(SECOND);
    expect(write(at, 'held.img')).not.toBe('written');
    at.pass(5 * SECOND);
    expect(row(at)).toMatchObject({ state: 'broken', source: 'P' });
    expect(write(at, 'far.img', 'deck-3')).toBe('written');
    expect(paths(at, 'deck-3')).toContain('2 transitioning');
    at.pass(30 * SECOND);
    expect(paths(at, 'deck-3')).toContain('2 unavailable');
    const stood = row(at).stretch!.history.map(({ says }) => says);
    expect(stood).toContain('oever-1 denies Molenhaven: Nordkai goes on');
    fibre(at, true);
    at.pass(5 * MINUTE);
    expect(row(at).state).toBe('protected');
    expect(files(at, 'stores-leg')).toEqual(['far.img']);
  });

  test('the witness: both go on, and after 20 s the preferred one needs it no more', () => {
    const at = stretched();
    witness(at);
    at.pass(30 * SECOND);
    expect(row(at).state).toBe('protected');
    expect(pair(at).A.arb).toBe('P');
    fibre(at);
    at.pass(10 * SECOND);
    expect(row(at)).toMatchObject({ state: 'broken', source: 'P' });
    expect(write(at, 'alone.img')).toBe('written');
  });

  test('witness, then preferred site: nobody goes on until a person says so, and what was there alone is kept', () => {
    const at = stretched();
    witness(at);
    at.pass(30 * SECOND);
    fibre(at);
    at.pass(10 * SECOND);
    expect(write(at, 'alone.img')).toBe('written');
    at.pass(MINUTE);
    site(at, 'Nordkai');
    at.pass(MINUTE);
    expect(stretchView(at.estate, row(at).id)!.sides.B.why).toBe(
      'Molenhaven has promised to stop while oever-1 is not asked',
    );
    expect(write(at, 'no.img', 'deck-3')).not.toBe('written');
    const force = { do: 'stretch.force', replication: 'Virtual deck', site: 'Molenhaven' };
    expect(at.codes(force)).toEqual(['stretched-force-needs-peer-off']);
    expect(at.codes({ ...force, off: 'array-off' })).toEqual(['stretched-force-needs-witness']);
    witness(at, true);
    at.pass(SECOND);
    const [refusal] = refusals(at, { ...force, off: 'array-off' });
    expect(refusal).toMatchObject({ code: 'replication-confirm-data-loss', field: 'confirm' });
    expect(refusal!.message).toMatch(/what Nordkai acknowledged alone since then, about .* is left out\.$/);
    at.run({ ...force, off: 'array-off', confirm: 'virtual deck' });
    expect(row(at)).toMatchObject({ source: 'S', fence: 'array-off' });
    expect(dataOf(at.estate, device(at, 'deck-3')).files).toEqual([]);
    expect(write(at, 'later.img', 'deck-3')).toBe('written');
    fibre(at, true);
    site(at, 'Nordkai', true);
    at.pass(10 * MINUTE);
    expect(row(at).state).toBe('protected');
    expect(files(at, 'stores')).toEqual(['later.img']);
    const kept = at.estate.table('snapshot').by('volume', volume(at).id);
    expect(kept.map(({ files: list }) => list.map(({ path }) => path))).toContainEqual(['alone.img']);
    expect(brokenRules(at.estate)).toEqual([]);
  });

  test('hosts wait while nobody answers, and do not fail before their time', () => {
    const at = stretched();
    at.estate.apply([changed('hostDevice', device(at), { writeRate: MIB })]);
    fibre(at);
    at.pass(2 * SECOND);
    const before = volume(at).written;
    at.pass(SECOND);
    expect(volume(at).written).toBe(before);
    at.pass(MINUTE);
    expect(device(at)).toMatchObject({ readOnly: false, writeRate: MIB });
    expect(volume(at).written).toBeGreaterThan(before);
  });

  test('one I/O goes by the leg that serves', () => {
    const at = stretched();
    site(at, 'Nordkai');
    at.pass(10 * SECOND);
    const io = oneIo(at.estate, device(at, 'deck-3'), { kind: 'read', at: 0, size: 4096 }, at.now, ids);
    expect(io).toMatchObject({ ok: true });
    site(at, 'Molenhaven');
    at.pass(SECOND);
    expect(oneIo(at.estate, device(at, 'deck-3'), { kind: 'read', at: 0, size: 4096 }, at.now, ids)).toMatchObject({
      ok: false,
      refusal: { code: 'no-path' },
    });
  });
});

describe('what is foretold', () => {
  const components = (at: Stage, ...names: string[]) =>
    names.map((name) => findComponent(componentsOf(at.estate), name)!.id);

  test('an outage is told as the pair will come to rest', () => {
    const at = stretched();
    const hurt = outage(at.estate, components(at, 'Nordkai')).hurt.filter((one) => one.volume.startsWith('stores'));
    expect(hurt.map(({ host: name, verdict }) => [name, verdict])).toEqual([
      ['deck-1', 'lost'],
      ['deck-3', 'degraded'],
    ]);
    const told = (...names: string[]) => {
      const failed = names.map((name) => findComponent(componentsOf(at.estate), name)!);
      return replicationsHurt(at.estate, after(at.estate, failed), at.now).map(({ says }) => says);
    };
    expect(told('Nordkai')).toEqual(['goes on at Molenhaven alone, after 5.1 s without an answer; Nordkai is lost']);
    expect(told('dark fibre')).toEqual([
      'goes on at Nordkai alone, after 3.1 s without an answer; Molenhaven falls silent',
    ]);
    expect(told('oever-1')).toEqual([]);
    expect(told('oever-1', 'Nordkai')[0]).toMatch(/^neither site goes on: Molenhaven/);
    const lost = siteLost(at.estate, at.now);
    expect(lost.rows.find(({ name }) => name === 'Virtual deck')!.lost).toEqual([
      { verdict: 'goes-on' },
      { verdict: 'goes-on' },
    ]);
  });

  test('no array and no site is a single point of failure for a host that reaches both', () => {
    const at = stretched();
    const spofs = spofFinder(at.estate);
    const of = (name: string) => spofs(mappingOf(at.estate, host(at, name).id, volume(at).id)!);
    // Its own site is one to every host.
    expect(of('deck-3').inherent).toEqual([named(at.estate, 'site', 'Molenhaven').id]);
    at.run({ do: 'mapping.delete', host: 'deck-3', array: 'lintel-2', volumes: ['stores-leg'] });
    const alone = spofFinder(at.estate)(mappingOf(at.estate, host(at, 'deck-3').id, volume(at).id)!);
    expect(alone.inherent).toContain(named(at.estate, 'array', 'lintel-1').id);
  });

  test('the view tells who reaches it, and what a lost site does to each', () => {
    const at = stretched();
    const view = stretchView(at.estate, row(at).id)!;
    expect(view.hosts.map(({ name, without }) => [name, without])).toEqual([
      ['deck-1', { A: 'falls with it', B: 'goes on' }],
      ['deck-3', { A: 'goes on', B: 'falls with it' }],
    ]);
    expect(view.dangers).toEqual([]);
    expect(view.witness).toMatchObject({ name: 'oever-1', owner: 'both', up: true });
    site(at, 'Molenhaven');
    at.pass(10 * SECOND);
    expect(stretchView(at.estate, row(at).id)!.dangers).toEqual(['Were Nordkai lost now, nobody goes on.']);
  });
});

const steps = fc.array(
  fc.record({
    what: fc.constantFrom('Nordkai', 'Molenhaven', 'dark fibre', 'oever-1', 'Nordkai to Oever', 'Molenhaven to Oever'),
    wait: fc.constantFrom(1, 4, 30, 120),
    write: fc.boolean(),
  }),
  { maxLength: 8 },
);

test('whatever fails and comes back, nothing that hosts were told is written is lost, and both legs end alike', () => {
  fc.assert(
    fc.property(steps, (list) => {
      const at = stretched();
      const down = new Set<string>();
      const turn = (name: string, up: boolean) => {
        if (name === 'oever-1') witness(at, up);
        else if (name === 'Nordkai' || name === 'Molenhaven') site(at, name, up);
        else fault(at, 'site-link-down', named(at.estate, 'siteLink', name).id, up);
      };
      const written: string[] = [];
      list.forEach(({ what, wait, write: writes }, k) => {
        turn(what, down.has(what));
        if (!down.delete(what)) down.add(what);
        at.pass(wait * SECOND);
        for (const by of writes ? ['deck-1', 'deck-3'] : [])
          if (write(at, `${by}-${k}.img`, by) === 'written') written.push(`${by}-${k}.img`);
        expect(brokenRules(at.estate)).toEqual([]);
      });
      for (const what of down) turn(what, true);
      at.pass(30 * MINUTE);
      expect(row(at).state).toBe('protected');
      expect(files(at, 'stores').sort()).toEqual(written.sort());
      expect(files(at, 'stores-leg').sort()).toEqual(written.sort());
      expect(volume(at, 'stores-leg').written).toBe(volume(at).written);
    }),
    { numRuns: 25 },
  );
});

test('a pair of nothing but its name: other replications are none', () => {
  const at = stageOf();
  expect(legsOf(at.estate, volume(at, 'tickets-1').id)).toEqual([volume(at, 'tickets-1').id]);
});

test('what hosts rewrite is counted at the leg that leads, and told of both', () => {
  const at = stretched();
  expect(volume(at, 'stores-leg').activity).toEqual(volume(at).activity);
  at.run({ do: 'volume.activity', array: 'lintel-1', volumes: ['stores'], kind: 'database' });
  expect(volume(at, 'stores-leg').activity!.kind).toBe('database');
  at.run({ do: 'host-device.mount', host: 'deck-3', device: 'stores', mountPoint: '/stores/deck' });
  write(at, 'base.img');
  at.estate.apply([changed('hostDevice', device(at), { writeRate: 50 * MIB })]);
  at.pass(10 * MINUTE);
  at.estate.apply([changed('hostDevice', device(at), { writeRate: 0 })]);
  site(at, 'Nordkai');
  at.pass(MINUTE);
  const early = bytesAtRisk(at.estate, row(at), at.now);
  at.pass(60 * MINUTE);
  expect(bytesAtRisk(at.estate, row(at), at.now)).toBeGreaterThan(early + MIB);
});

test('a leg is no workload of its own', () => {
  const at = stretched();
  const named = siteLost(at.estate, at.now).rows.map(({ name }) => name);
  expect(named).toContain('Virtual deck');
  expect(named).not.toContain('stores-leg');
});

test('no copy is made of a leg that does not hold what hosts work with', () => {
  const at = stretched();
  const copy = { do: 'snapshot.create', workload: 'Virtual deck', name: 'by-hand' };
  expect(at.codes(copy)).toEqual([]);
  site(at, 'Nordkai');
  at.pass(MINUTE);
  expect(at.codes(copy)).toEqual(['array-silent']);
  site(at, 'Nordkai', true);
  at.pass(SECOND);
  const [refusal] = refusals(at, copy);
  expect(refusal).toMatchObject({
    code: 'leg-not-serving',
    message: 'stores holds an older image: Virtual deck goes on at its other site.',
  });
  at.pass(30 * MINUTE);
  expect(at.codes(copy)).toEqual([]);
});
