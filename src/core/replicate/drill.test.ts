import { planChange } from '../change/plan';
import type { OperationDocument } from '../change/registry';
import { lookUp } from '../operation/inquiry';
import { brokenRules } from '../rules/book';
import { planUndo } from '../change/undo';
import { HOUR, MINUTE, SECOND } from '../units/duration';
import { iqn } from '../../../demo/names';
import { basis, differences, named } from '../../../demo/workbench';
import { copying, yard } from '../../../demo/replicated';
import type { Stage } from '../../../demo/protected';
import { drillReport, isOver } from './drill-report';
import { drillTimes } from './drill-operations';
import { partTook } from './rehearse-time';

const drill = { do: 'drill.start', replications: ['Ticketing'], host: 'yard-1' };
const ready = (): Stage => {
  const at = copying(yard);
  at.pass(HOUR);
  return at;
};
const replication = (at: Stage) => lookUp(at.estate, 'replication', 'Ticketing')!;
const held = (at: Stage) => [...at.estate.table('drill').values()];
const refusals = (at: Stage, ...operations: OperationDocument[]) =>
  planChange(at.estate, operations, { ...basis, now: at.now, seed: 'asked' }).refusals;

test('a failover is rehearsed on volumes of its own, and copying goes on', () => {
  const at = ready();
  const before = at.estate.table('volume').size;
  at.run(drill);
  const [one] = held(at);
  expect(one).toMatchObject({ host: 'yard-1', site: 'Molenhaven', endedAt: null });
  expect(replication(at)).toMatchObject({ state: 'protected', drill: true });
  const [part] = one!.parts;
  expect(part!.tasks.map(({ what }) => what)).toEqual([
    'cut the image',
    'make 2 volumes of it',
    'map them to yard-1',
    'yard-1 looks again',
    'mount 1 file system',
    'read every file with its checksum',
  ]);
  expect(one!.tiers).toEqual([partTook(part!)]);
  expect(one!.total).toBe(15 * MINUTE + partTook(part!));
  // The files are those of the moment to which it comes back.
  const mounted = at.estate
    .table('hostDevice')
    .by('host', named(at.estate, 'host', 'yard-1').id)
    .filter((device) => device.mountPoint !== null);
  const { primaries } = replication(at);
  const source = primaries.map((id) => at.estate.table('volume').get(id)!).find(({ written }) => written > 0)!;
  expect(mounted).toHaveLength(1);
  expect(at.estate.table('volume').get(mounted[0]!.volume)!.files).toEqual(source.files);
  const cycles = at.estate.table('cycle').by('replication', replication(at).id).length;
  at.pass(HOUR);
  expect(at.estate.table('cycle').by('replication', replication(at).id).length).toBeGreaterThan(cycles);
  expect(at.codes({ do: 'replication.remove', replication: 'Ticketing', confirm: 'Ticketing' })).toEqual([
    'replication-drill-active',
  ]);
  expect(at.codes(drill)).toEqual(['replication-drill-active']);
  expect(brokenRules(at.estate)).toEqual([]);

  at.run({ do: 'drill.end', drill: one!.name });
  expect(at.estate.table('volume').size).toBe(before);
  expect(at.estate.table('mapping').by('host', named(at.estate, 'host', 'yard-1').id)).toEqual([]);
  expect(at.estate.table('hostDevice').by('host', named(at.estate, 'host', 'yard-1').id)).toEqual([]);
  expect(replication(at).drill).toBe(false);
  expect(held(at)[0]).toMatchObject({ endedAt: at.now, clones: [], copies: [] });
  expect(at.codes({ do: 'drill.end', drill: one!.name })).toEqual(['replication-no-drill']);
  expect(brokenRules(at.estate)).toEqual([]);
});

test('what is rehearsed and taken back leaves nothing behind', () => {
  const at = ready();
  const plan = planChange(at.estate, [drill], { ...basis, now: at.now, seed: 'back' });
  expect(plan.refusals).toEqual([]);
  const undone = planUndo(plan.overlay, plan.steps);
  expect(undone.refusals).toEqual([]);
  expect(differences(undone.overlay, at.estate)).toEqual([]);
});

test.each([
  ['host-not-apart', { host: 'gate-1' }],
  ['host-unknown', { host: 'yard-9' }],
  ['replication-unknown', { replications: ['Cargo'] }],
])('is refused where it would mix up or reach nothing: %s', (code, otherwise) => {
  expect(refusals(ready(), { ...drill, ...otherwise }).map((one) => one.code)).toContain(code);
});

test('is refused at a host that does not reach the array, and before the first copy is whole', () => {
  const blind = copying({
    do: 'host.create',
    name: 'yard-1',
    os: 'linux',
    site: 'Molenhaven',
    initiators: [iqn('yard-1')],
  });
  blind.pass(HOUR);
  expect(refusals(blind, drill)).toMatchObject([{ code: 'drill-host-blind', field: 'host' }]);
  expect(copying(yard).codes(drill)).toEqual(['replication-no-consistent-image']);
});

test('what somebody built on it keeps it from ending', () => {
  const at = ready();
  at.run(drill);
  const [one] = held(at);
  const clone = at.estate.table('volume').get(one!.clones[0]!)!;
  at.run({ do: 'snapshot.clone', array: 'lintel-2', volume: clone.name, name: 'kept' });
  expect(at.codes({ do: 'drill.end', drill: one!.name })).toEqual(['drill-in-use']);
});

test('tiers follow each other, within one so many hands work at once', () => {
  const part = (tier: number, took: number) => ({
    replication: `rep_${tier}${took}`,
    name: 'one',
    tier,
    pit: 0,
    lag: 0,
    goal: null,
    tasks: [{ what: 'all', took: took * SECOND }],
    found: [],
  });
  const parts = [part(1, 45), part(1, 60), part(1, 20), part(1, 50), part(3, 30), part(3, 30), part(3, 25)];
  expect(drillTimes(parts, { detect: 90 * SECOND, decide: 300 * SECOND, hands: 3 })).toEqual({
    tiers: [70 * SECOND, 30 * SECOND],
    total: 490 * SECOND,
  });
});

test('its report says what was found, how long it took, and what was too late', () => {
  const at = ready();
  at.run({ do: 'replication.configure', replication: 'Ticketing', goal: '16 min', tier: 2 });
  at.run(drill);
  const [one] = held(at);
  const text = drillReport(one!);
  expect(text).toContain(`# ${one!.name}`);
  expect(text).toContain('| noticing | 5 min |');
  expect(text).toContain('## Ticketing');
  expect(text).toContain('Turn 2. Back to');
  expect(text).toContain('to be back within: 16 min');
  expect(isOver(one!)).toEqual(one!.total > 16 * MINUTE ? ['Ticketing'] : []);
  expect(text).not.toMatch(/undefined|NaN|null/);
  const rows = text.split('\n').filter((line) => line.startsWith('|'));
  for (const line of rows) expect(line.endsWith('|')).toBe(true);
});
