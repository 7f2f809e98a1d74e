import { slots } from '../../../demo/names';
import { bareEstate, basis, carryOut, codesOf, refusalsOf } from '../../../demo/workbench';
import { contextFor } from '../change/plan';
import type { OperationDocument } from '../change/registry';
import { brokenRules } from '../rules/book';
import { changed, compacted } from '../estate/effects';
import type { Drive } from '../estate/entities';
import type { Estate } from '../estate/estate';
import type { FaultKind } from '../lab/fault-kinds';
import { clearFault, setFault } from '../lab/faults';
import { nextJobEnd, workJob } from '../work/scheduler';
import { lookUp, lookUpDrive } from '../operation/inquiry';
import { groupHealth } from '../raid/health';
import { HOUR, MINUTE } from '../units/duration';
import { driveAssignSpare } from './assign-spare';
import { driveReplace } from './replace';

const context = contextFor(basis, 0, 0);
let seed = 0;
const newId = contextFor({ ...basis, seed: 'drives' }, 2, 2).newId;
const lintel = (estate: Estate) => lookUp(estate, 'array', 'lintel-1')!;
const drive = (estate: Estate, ref: string): Drive => lookUpDrive(estate, ref, lintel(estate).id)!;
const group = (estate: Estate, name = 'rg-1') => lookUp(estate, 'raidGroup', name, lintel(estate).id)!;
const health = (estate: Estate, name = 'rg-1') => groupHealth(estate, group(estate, name));
const run = (estate: Estate, ...operations: OperationDocument[]) => carryOut(estate, operations, `drive ${seed++}`);
const op = (kind: string, drives: string[], more: Record<string, unknown> = {}): OperationDocument => ({
  do: `drive.${kind}`,
  array: 'lintel-1',
  drives,
  ...more,
});
const create = (more: Record<string, unknown> = {}): OperationDocument => ({
  do: 'raid-group.create',
  array: 'lintel-1',
  name: 'rg-1',
  level: 'raid6',
  drives: slots(0, 0, 5),
  ...more,
});

function finish(estate: Estate): number {
  let at = basis.now;
  for (let next = nextJobEnd(estate); next; next = nextJobEnd(estate)) {
    at = next.at;
    estate.apply(compacted(workJob(estate, next.job, next.at, newId).effects));
  }
  return at;
}
function fault(estate: Estate, ref: string, kind: FaultKind = 'drive-failed', now = basis.now) {
  const result = setFault(estate, kind, drive(estate, ref).id, now, newId);
  if (!result.ok) throw new Error(result.refusals[0]!.message);
  estate.apply(compacted(result.effects));
  return result.said;
}
function mend(estate: Estate, ref: string, kind: FaultKind = 'drive-failed') {
  const result = clearFault(estate, kind, drive(estate, ref).id, basis.now, newId);
  if (!result.ok) throw new Error(result.refusals[0]!.message);
  estate.apply(compacted(result.effects));
}
/** A whole group of six, initialised. */
function whole(more: Record<string, unknown> = {}): Estate {
  const estate = bareEstate();
  run(estate, create(more));
  finish(estate);
  return estate;
}
const sound = (estate: Estate) => expect(brokenRules(estate)).toEqual([]);

describe('spares', () => {
  test.each([
    ['drive-in-use', ['0:1'], {}],
    ['drive-unknown', ['0:99'], {}],
    ['raidGroup-unknown'.replace('G', '-g'), ['0:20'], { raidGroup: 'rg-9' }],
    ['drive-medium-mix', ['2:0'], { raidGroup: 'rg-1' }],
    ['drive-sector-mix', ['1:0'], { raidGroup: 'rg-1' }],
  ])('are refused: %s', (code, drives, more) =>
    expect(codesOf(whole(), op('assign-spare', drives, more))).toContain(code),
  );

  test('a smaller drive is refused for a group, and warned about for all', () => {
    const estate = whole();
    estate.apply([changed('drive', drive(estate, '0:20'), { capacity: 1.92e12 })]);
    expect(codesOf(estate, op('assign-spare', ['0:20'], { raidGroup: 'rg-1' }))).toEqual(['spare-too-small']);
    const [step] = run(estate, op('assign-spare', ['0:20']));
    expect(step!.notes[0]).toContain('fits no group');
    fault(estate, '0:2');
    expect(estate.table('job').size).toBe(0);
    expect(health(estate).state).toBe('degraded');
  });

  test('are members of nothing, cannot be carved, and are released again', () => {
    const estate = whole();
    run(estate, op('assign-spare', ['0:20', '0:21']));
    expect(codesOf(estate, create({ name: 'rg-2', drives: slots(0, 18, 21) }))).toEqual([
      'drive-is-spare',
      'drive-is-spare',
    ]);
    expect(codesOf(estate, op('release-spare', ['0:19']))).toEqual(['no-spare']);
    run(estate, op('release-spare', ['0:20']));
    expect(drive(estate, '0:20')).toMatchObject({ spare: 'no', spareGroup: null });
    fault(estate, '0:2');
    expect(refusalsOf(estate, op('release-spare', ['0:21']))[0]).toMatchObject({
      code: 'spare-in-use',
      mend: 'Replace the failed drive; the spare is free after the copy back.',
    });
  });

  test('kept for one group, they serve no other', () => {
    const estate = whole();
    run(estate, create({ name: 'rg-2', drives: slots(0, 6, 11), spares: ['0:20'] }));
    finish(estate);
    fault(estate, '0:2');
    expect(health(estate).state).toBe('degraded');
    expect(estate.table('job').size).toBe(0);
    fault(estate, '0:7');
    expect(group(estate, 'rg-2').drives).toContain(drive(estate, '0:20').id);
    sound(estate);
  });

  test('a group that waits for one takes it at once', () => {
    const estate = whole();
    fault(estate, '0:2');
    const [step] = run(estate, op('assign-spare', ['0:20']));
    expect(step!.title).toContain('begins to stand in at once');
    expect(drive(estate, '0:20')).toMatchObject({ state: 'rebuilding', raidGroup: group(estate).id });
  });

  test('foretell what they fit and how many are advised', () => {
    const estate = whole();
    const told = driveAssignSpare.foretell(estate, { array: 'lintel-1', drives: ['0:20'] }, context);
    expect(told.fields.drives!.says).toMatch(/^Fits rg-1\. 1 spares for 6 drives of NVMe flash, \d advised\.$/);
    expect(told.fields.drives!.choices!.find((choice) => choice.value === '0:0')!.unfit).toBe('is a member of rg-1');
  });
});

describe('a drive dies', () => {
  test('its spare stands in, the new drive takes its place back, and the spare is free again', () => {
    const estate = whole();
    run(estate, op('assign-spare', ['0:20']));
    expect(fault(estate, '0:2')).toContain('a spare stands in');
    expect(health(estate)).toMatchObject({ state: 'degraded', tolerates: 1 });
    expect(drive(estate, '0:2')).toMatchObject({ state: 'failed', raidGroup: null });
    expect(drive(estate, '0:20')).toMatchObject({ state: 'rebuilding', standsInFor: drive(estate, '0:2').id });
    sound(estate);
    finish(estate);
    expect(health(estate).state).toBe('ok');
    const [step] = run(estate, op('replace', ['0:2']));
    expect(step!.title).toContain('copies back to it');
    // Redundancy is whole while it copies back, and nobody else may take the drive.
    expect(health(estate)).toMatchObject({ state: 'ok', tolerates: 2 });
    expect(codesOf(estate, create({ name: 'rg-2', drives: ['0:2', ...slots(0, 6, 8)] }))).toEqual(['drive-in-use']);
    finish(estate);
    expect(group(estate).drives[2]).toBe(drive(estate, '0:2').id);
    expect(drive(estate, '0:20')).toMatchObject({ raidGroup: null, standsInFor: null, spare: 'shared', state: 'ok' });
    sound(estate);
  });

  test('without a spare the group stays degraded until the drive is replaced', () => {
    const estate = whole();
    fault(estate, '0:2');
    expect(estate.table('job').size).toBe(0);
    run(estate, op('replace', ['0:2']));
    expect(health(estate).state).toBe('degraded');
    finish(estate);
    expect(health(estate).state).toBe('ok');
    sound(estate);
  });

  test('a second and a third failure: rebuilt one by one, lost beyond the parity, back with a drive', () => {
    const estate = whole();
    run(estate, op('assign-spare', ['0:20']));
    fault(estate, '0:2');
    fault(estate, '0:3');
    expect(health(estate)).toMatchObject({ state: 'degraded', tolerates: 0 });
    fault(estate, '0:4');
    expect(health(estate).state).toBe('lost');
    mend(estate, '0:4');
    expect(health(estate)).toMatchObject({ state: 'degraded', tolerates: 0 });
    sound(estate);
  });

  test('the spare fails while it is written: the next one begins from nothing, the broken one is left alone for an hour', () => {
    const estate = whole();
    run(estate, op('assign-spare', ['0:20', '0:21']));
    fault(estate, '0:2');
    const first = [...estate.table('job').values()][0]!;
    const busy = first.drive === drive(estate, '0:20').id ? '0:20' : '0:21';
    const other = busy === '0:20' ? '0:21' : '0:20';
    fault(estate, busy, 'drive-failed', basis.now + 10 * MINUTE);
    const [job] = [...estate.table('job').values()];
    expect(job).toMatchObject({ drive: drive(estate, other).id, done: 0, startedAt: basis.now + 10 * MINUTE });
    expect(drive(estate, other).standsInFor).toBe(drive(estate, '0:2').id);
    expect(drive(estate, busy).rebuildFailedAt).toBe(basis.now + 10 * MINUTE);
    sound(estate);
    finish(estate);
    expect(health(estate).state).toBe('ok');
  });

  test('an enclosure lost and back: nothing is rebuilt, and everything is as before', () => {
    const estate = whole();
    run(estate, op('assign-spare', ['0:20']));
    const enclosure = drive(estate, '0:0').enclosure;
    const down = setFault(estate, 'enclosure-down', enclosure, basis.now, newId);
    if (down.ok) estate.apply(down.effects);
    expect(health(estate).state).toBe('lost');
    expect(estate.table('job').size).toBe(0);
    const up = clearFault(estate, 'enclosure-down', enclosure, basis.now, newId);
    if (up.ok) estate.apply(up.effects);
    expect(health(estate)).toMatchObject({ state: 'ok', tolerates: 2 });
  });

  test('a pulled drive that comes back is written again', () => {
    const estate = whole();
    fault(estate, '0:2', 'drive-missing');
    expect(health(estate).state).toBe('degraded');
    mend(estate, '0:2', 'drive-missing');
    expect(drive(estate, '0:2').state).toBe('rebuilding');
    finish(estate);
    expect(health(estate).state).toBe('ok');
  });
});

describe('a distributed group', () => {
  const distributed = () => whole({ level: 'distributed', drives: slots(0, 0, 11), stripe: '6+2', spareColumns: 1 });

  test('rebuilds into its own spare space, and copies back', () => {
    const estate = distributed();
    fault(estate, '0:4');
    const [job] = [...estate.table('job').values()];
    expect(job).toMatchObject({ kind: 'raid-rebuild', drive: drive(estate, '0:4').id });
    expect(health(estate)).toMatchObject({ state: 'degraded', tolerates: 1 });
    finish(estate);
    expect(group(estate).moved).toEqual([drive(estate, '0:4').id]);
    expect(health(estate)).toMatchObject({ state: 'ok', tolerates: 2 });
    // One spare column: a second failure has nowhere to go.
    fault(estate, '0:5');
    expect(estate.table('job').size).toBe(0);
    run(estate, op('replace', ['0:4']));
    expect([...estate.table('job').values()].map((one) => one.kind)).toContain('raid-copy-back');
    finish(estate);
    expect(group(estate).moved).not.toContain(drive(estate, '0:4').id);
    sound(estate);
  });

  test('is rebuilt faster than a group with a spare drive', () => {
    const wide = distributed();
    fault(wide, '0:4');
    const narrow = whole();
    run(narrow, op('assign-spare', ['0:20']));
    fault(narrow, '0:4');
    const hours = (estate: Estate) => (finish(estate) - basis.now) / HOUR;
    expect(hours(wide)).toBeLessThan(hours(narrow));
  });
});

describe('replacing', () => {
  test('is refused for a drive nobody can spare, and for one too small', () => {
    const estate = whole();
    fault(estate, '0:2');
    fault(estate, '0:3');
    expect(codesOf(estate, op('replace', ['0:4']))).toEqual(['drive-needed']);
    expect(codesOf(estate, op('replace', ['0:2'], { capacity: '1.92 TB' }))).toEqual(['drive-too-small']);
    expect(codesOf(estate, op('replace', ['0:2'], { capacity: 'large' }))).toEqual(['not-a-size']);
  });
  test('gives the slot a new drive: another serial, no wear, no errors', () => {
    const estate = whole();
    estate.apply([
      changed('drive', drive(estate, '0:20'), { wear: 91, mediaErrors: 7, recentErrors: 3, holdsData: true }),
    ]);
    const before = drive(estate, '0:20').serial;
    const [step] = run(estate, op('replace', ['0:20'], { capacity: '7.68 TB' }));
    expect(step!.destroys).toContain(before);
    expect(drive(estate, '0:20')).toMatchObject({
      capacity: 7.68e12,
      wear: 0,
      mediaErrors: 0,
      recentErrors: 0,
      holdsData: false,
    });
    expect(drive(estate, '0:20').serial).not.toBe(before);
  });
  test('foretells what follows', () => {
    const estate = whole();
    const says = (ref: string) =>
      driveReplace.foretell(estate, { array: 'lintel-1', drives: [ref] }, context).fields.drives!.says;
    expect(says('0:2')).toBe('rg-1 writes the new drive again from the others.');
    expect(says('0:20')).toBe('Free drive, whole.');
  });
});

describe('before it dies', () => {
  test('a drive that expects to fail is copied to a spare while the group stays whole', () => {
    const estate = whole();
    fault(estate, '0:2', 'drive-predicted');
    expect(health(estate)).toMatchObject({ state: 'ok', tolerates: 2 });
    expect(codesOf(estate, op('copy-to-spare', ['0:2']))).toEqual(['spare-none']);
    run(estate, op('assign-spare', ['0:20']), op('copy-to-spare', ['0:2']));
    expect(health(estate)).toMatchObject({ state: 'ok', tolerates: 2 });
    expect(codesOf(estate, op('copy-to-spare', ['0:2']))).toEqual(['drive-busy']);
    finish(estate);
    expect(group(estate).drives[2]).toBe(drive(estate, '0:20').id);
    expect(drive(estate, '0:2')).toMatchObject({ raidGroup: null, state: 'predicted' });
    sound(estate);
  });
  test('it fails in the middle of the copy: the spare is free and stands in by a rebuild', () => {
    const estate = whole();
    fault(estate, '0:2', 'drive-predicted');
    run(estate, op('assign-spare', ['0:20']), op('copy-to-spare', ['0:2']));
    fault(estate, '0:2');
    expect([...estate.table('job').values()].map((job) => job.kind)).toEqual(['raid-rebuild']);
    sound(estate);
    finish(estate);
    expect(health(estate).state).toBe('ok');
  });
  test.each([
    ['no-member', '0:20'],
    ['level-has-spare-space', '1:0'],
  ])('is refused: %s', (code, ref) => {
    const estate = whole();
    run(estate, create({ name: 'rg-d', level: 'distributed', drives: slots(1, 0, 9) }));
    expect(codesOf(estate, op('copy-to-spare', [ref]))).toEqual([code]);
  });
});

describe('lamps, labels and erasing', () => {
  test('a lamp blinks until it is put out', () => {
    const estate = whole();
    run(estate, op('locate', ['0:2']));
    expect(drive(estate, '0:2').located).toBe(true);
    run(estate, op('locate', ['0:2'], { on: 'false' }));
    expect(drive(estate, '0:2').located).toBe(false);
    fault(estate, '0:3', 'drive-missing');
    expect(codesOf(estate, op('locate', ['0:3']))).toEqual(['drive-missing']);
  });
  test('a foreign drive is cleared before it is used', () => {
    const estate = whole();
    estate.apply([changed('drive', drive(estate, '0:20'), { foreign: true })]);
    expect(codesOf(estate, create({ name: 'rg-2', drives: slots(0, 18, 21) }))).toEqual(['drive-foreign-label']);
    expect(codesOf(estate, op('clear-label', ['0:19']))).toEqual(['no-foreign-label']);
    const [step] = run(estate, op('clear-label', ['0:20']));
    expect(step!.destroys).toContain('claim');
    expect(codesOf(estate, create({ name: 'rg-2', drives: slots(0, 18, 21) }))).toEqual([]);
  });
  test('drives of a retired group carry old data until they are erased, which takes disks their time', () => {
    const estate = whole();
    run(estate, { do: 'raid-group.delete', array: 'lintel-1', name: 'rg-1' });
    expect(drive(estate, '0:2').holdsData).toBe(true);
    run(estate, op('erase', ['0:2']));
    expect(codesOf(estate, create({ drives: slots(0, 0, 5) }))).toEqual(['drive-erasing']);
    expect(codesOf(estate, op('erase', ['0:2']))).toEqual(['drive-erasing']);
    expect(finish(estate) - basis.now).toBeLessThanOrEqual(3 * MINUTE);
    expect(drive(estate, '0:2').holdsData).toBe(false);
    run(estate, create({ name: 'rg-7', drives: slots(2, 0, 5) }));
    finish(estate);
    run(estate, { do: 'raid-group.delete', array: 'lintel-1', name: 'rg-7', erase: true });
    expect(estate.table('job').size).toBe(6);
    // 12 TB at 180 MB/s
    expect((finish(estate) - basis.now) / HOUR).toBeCloseTo(18.5, 1);
  });
});
