import { slots } from '../../../demo/names';
import { bareEstate, basis, carryOut, codesOf, refusalsOf } from '../../../demo/workbench';
import { contextFor } from '../change/plan';
import type { OperationDocument } from '../change/registry';
import { brokenRules } from '../rules/book';
import { changed, compacted } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { doneAt, jobProgress } from '../job/work';
import { setFault } from '../lab/faults';
import { nextJobEnd, workJob } from '../work/scheduler';
import { lookUp, lookUpDrive } from '../operation/inquiry';
import { HOUR } from '../units/duration';
import { raidGroupCreate } from './create';
import { layoutSketch } from './create-foretell';
import { levelText, shapeOf, shapeOfGroup, type Shape } from './geometry';
import { raidGroupExpand } from './expand';

const context = contextFor(basis, 0, 0);
const newId = contextFor({ ...basis, seed: 'raid' }, 4, 4).newId;
let seed = 0;
const run = (estate: Estate, ...operations: OperationDocument[]) => carryOut(estate, operations, `raid ${seed++}`);
const group = (estate: Estate, name = 'rg-1') =>
  lookUp(estate, 'raidGroup', name, lookUp(estate, 'array', 'lintel-1')!.id)!;
const create = (more: Record<string, unknown> = {}): OperationDocument => ({
  do: 'raid-group.create',
  array: 'lintel-1',
  name: 'rg-1',
  level: 'raid6',
  drives: slots(1, 0, 5),
  ...more,
});
const on = (kind: string, more: Record<string, unknown> = {}): OperationDocument => ({
  do: `raid-group.${kind}`,
  array: 'lintel-1',
  name: 'rg-1',
  ...more,
});
function finish(estate: Estate): void {
  for (let next = nextJobEnd(estate); next; next = nextJobEnd(estate))
    estate.apply(compacted(workJob(estate, next.job, next.at, newId).effects));
}
function whole(more: Record<string, unknown> = {}): Estate {
  const estate = bareEstate();
  run(estate, create(more));
  finish(estate);
  return estate;
}

describe('forming a group', () => {
  test.each([
    ['copies-not-divisible', { level: 'raid10', copies: 4, drives: slots(1, 0, 5) }],
    ['too-few-copies', { level: 'raid10', copies: 1 }],
    ['legs-not-divisible', { level: 'raid50', drives: slots(1, 0, 6) }],
    ['leg-too-narrow', { level: 'raid60', legs: 3, drives: slots(1, 0, 8) }],
    ['stripe-wider-than-drives', { level: 'distributed', stripe: '8+2', spareColumns: 1, drives: slots(1, 0, 9) }],
    ['parameter-wrong', { level: 'distributed', stripe: 'eight' }],
    ['drive-class-mix', { level: 'raid6', drives: [...slots(0, 0, 4), '0:9'] }],
    ['drive-twice', { spares: ['1:0'] }],
    ['drive-medium-mix', { drives: slots(2, 0, 5), spares: ['0:0'] }],
  ])('is refused: %s', (code, more) => {
    const estate = bareEstate();
    const odd = lookUpDrive(estate, '0:9', lookUp(estate, 'array', 'lintel-1')!.id)!;
    estate.apply([changed('drive', odd, { media: 'ssd-sas' })]);
    expect(codesOf(estate, create(more))).toContain(code);
  });

  test('names the number of drives that would do', () => {
    const [refusal] = refusalsOf(bareEstate(), create({ level: 'raid60', drives: slots(1, 0, 8) }));
    expect(refusal).toMatchObject({
      message: '9 drives do not divide into equal legs for RAID 60.',
      mend: '8 drives would do, and 1 spare.',
    });
  });

  test('agrees to mixed classes when asked, and says at what speed it runs', () => {
    const estate = bareEstate();
    const odd = lookUpDrive(estate, '0:5', lookUp(estate, 'array', 'lintel-1')!.id)!;
    estate.apply([changed('drive', odd, { media: 'ssd-sata' })]);
    const [step] = run(estate, create({ drives: slots(0, 0, 5), mixed: true }));
    expect(step!.notes).toContain('Classes are mixed: the group runs at the speed of SATA flash.');
  });

  test.each([
    ['raid50', { drives: slots(1, 0, 11) }, 'RAID 50 2×(5+1)'],
    ['raid60', { drives: slots(1, 0, 15) }, 'RAID 60 2×(6+2)'],
    ['triple-parity', { drives: slots(1, 0, 9) }, 'Triple parity 7+3'],
    ['raid10', { drives: slots(1, 0, 8), copies: 3 }, 'RAID 10 3×3'],
    ['distributed', { drives: slots(1, 0, 19), stripe: '8+2', spareColumns: 2 }, 'Distributed 8+2 on 20'],
  ])('%s keeps its shape on record', (level, more, text) => {
    const estate = whole({ level, ...more });
    expect(levelText(shapeOfGroup(group(estate)))).toBe(text);
    expect(brokenRules(estate)).toEqual([]);
  });

  test('says when one enclosure takes a group down, and when none does', () => {
    const spread = bareEstate();
    const two = [...spread.table('enclosure').values()].find((row) => row.number === 2)!;
    // Half of the drives of a kind stand in another enclosure.
    for (const ref of slots(1, 12, 17)) {
      const drive = lookUpDrive(spread, ref, lookUp(spread, 'array', 'lintel-1')!.id)!;
      spread.apply([changed('drive', drive, { enclosure: two.id, slot: 40 + drive.slot })]);
    }
    const mirrors = [0, 1, 2].flatMap((k) => [`1:${k}`, `2:${52 + k}`]);
    const [good] = run(spread, create({ level: 'raid10', drives: mirrors }));
    expect(good!.notes.join(' ')).not.toContain('lose the enclosure');
    const [bad] = run(spread, create({ name: 'rg-2', drives: slots(1, 3, 8) }));
    expect(bad!.notes.join(' ')).toContain('All 6 stand in enclosure 1: lose the enclosure, lose the group.');
  });
});

describe('foretelling', () => {
  const draft = (more: Record<string, unknown> = {}) => ({
    array: 'lintel-1',
    drives: slots(1, 0, 11),
    level: 'raid6',
    ...more,
  });
  const told = (more: Record<string, unknown> = {}) => raidGroupCreate.foretell(bareEstate(), draft(more), context);

  test('the lens changes figures, not what is planned', () => {
    const cell = (more: Record<string, unknown>, key: string) => {
      const { columns, lines } = told(more).comparison!;
      return lines.find((line) => line.value === 'raid6')!.cells[columns.findIndex((column) => column.key === key)]!
        .value;
    };
    expect(cell({ $load: '90' }, 'rebuild')).toBeGreaterThan(cell({ $load: '0' }, 'rebuild'));
    expect(cell({ $reads: '100' }, 'iops')).toBeGreaterThan(cell({ $reads: '0' }, 'iops'));
    expect(cell({ $ioSize: '256 KiB' }, 'rate')).toBeGreaterThan(cell({ $ioSize: '4 KiB' }, 'rate'));
    expect(codesOf(bareEstate(), create({ $load: '90' }))).toEqual(['parameter-unknown']);
  });
  test('chooses drives and says why', () => {
    const { chosen } = told({ drives: [], $count: 10 });
    expect(chosen!.drives).toHaveLength(10);
    expect(chosen!.why).toMatch(/^10 of .* at most 10 in one enclosure; \d+ of the kind stay free\.$/);
    expect(told({ $count: 200 }).chosen).toBeUndefined();
  });
  test('advises with the figure that decided', () => {
    const { advice } = told().comparison!;
    expect(advice.map((one) => one.goal)).toEqual(['Most room', 'Most speed', 'Safest']);
    for (const one of advice) expect(one.why).toMatch(/\d/);
  });
  test('sketches the first stripes', () => {
    const sketch = told().layout!;
    expect(sketch.drives).toHaveLength(12);
    expect(sketch.rows.flat().filter((cell) => cell?.stripe === 0)).toHaveLength(12);
    const distributed = layoutSketch(shapeOf({ level: 'distributed' }, 12) as Shape, 1, slots(1, 0, 11));
    expect(distributed.rows.flat().filter((cell) => cell?.what === 'spare').length).toBeGreaterThan(0);
    const mirror = layoutSketch(shapeOf({ level: 'raid10' }, 4) as Shape, 1, slots(1, 0, 3));
    expect(mirror.rows[0]!.map((cell) => cell?.text)).toEqual(['0', '0′', '1', '1′']);
  });
  test('tells how much larger drives would lose, and that two groups would give more', () => {
    const estate = bareEstate();
    const array = lookUp(estate, 'array', 'lintel-1')!;
    for (const ref of slots(1, 6, 11)) {
      const drive = lookUpDrive(estate, ref, array.id)!;
      estate.apply([changed('drive', drive, { capacity: 9.6e12 })]);
    }
    const says = raidGroupCreate.foretell(estate, draft(), context).fields.drives!.says!;
    expect(says).toContain('each gives as much as the smallest, 2.4 TB');
    expect(says).toContain('Two groups of level 6, 6 and 6 drives by size, would give');
  });
});

describe('expanding', () => {
  test('moves stripes in its time; the room is there at the end', () => {
    const estate = whole();
    const before = group(estate).usable;
    const [step] = run(estate, on('expand', { drives: slots(1, 6, 7) }));
    expect(step!.title).toContain('RAID 6 6+2');
    expect(group(estate).usable).toBe(before);
    expect(codesOf(estate, create({ name: 'rg-2', drives: slots(1, 6, 9) }))).toEqual(['drive-in-use', 'drive-in-use']);
    const [job] = [...estate.table('job').values()];
    const half = (job!.startedAt + job!.finishesAt) / 2;
    expect(jobProgress(job!, half)).toBeCloseTo(0.5, 3);
    expect(doneAt(job!, job!.finishesAt)).toBe(job!.total);
    finish(estate);
    expect(group(estate)).toMatchObject({ usable: (before / 4) * 6, data: 6 });
    expect(brokenRules(estate)).toEqual([]);
  });
  test.each([
    ['drive-class-mix', {}, { drives: ['0:0'] }],
    ['copies-not-divisible', { level: 'raid10' }, { drives: ['1:6'] }],
    ['legs-not-divisible', { level: 'raid50', drives: slots(1, 0, 11) }, { drives: ['1:12'] }],
    ['drive-in-use', {}, { drives: ['1:1'] }],
    ['parameter-wrong', {}, { drives: [] }],
  ])('is refused: %s', (code, made, more) => {
    const codes = codesOf(whole(made), on('expand', more));
    expect(codes.some((one) => one === code || (code === 'drive-class-mix' && one === 'drive-sector-mix'))).toBe(true);
  });
  test('is refused during a rebuild, while degraded, and for smaller drives', () => {
    const estate = whole();
    const array = lookUp(estate, 'array', 'lintel-1')!;
    const small = lookUpDrive(estate, '1:9', array.id)!;
    estate.apply([changed('drive', small, { capacity: 1.2e12 })]);
    expect(codesOf(estate, on('expand', { drives: ['1:9'] }))).toEqual(['drive-too-small']);
    const fault = setFault(estate, 'drive-failed', group(estate).drives[1]!, basis.now, newId);
    if (fault.ok) estate.apply(compacted(fault.effects));
    expect(codesOf(estate, on('expand', { drives: ['1:6'] }))).toEqual(['group-degraded']);
    run(estate, { do: 'drive.assign-spare', array: 'lintel-1', drives: ['1:20'] });
    expect(codesOf(estate, on('expand', { drives: ['1:6'] }))).toEqual(['group-degraded']);
    finish(estate);
    run(estate, on('scrub'));
    expect(refusalsOf(estate, on('expand', { drives: ['1:6'] }))[0]).toMatchObject({
      code: 'group-busy',
      message: 'rg-1 is at work: it is being scrubbed.',
    });
  });
  test('foretells what it comes to', () => {
    const says = (drives: string[]) =>
      raidGroupExpand.foretell(whole(), { array: 'lintel-1', name: 'rg-1', drives }, context).fields.drives!.says;
    expect(says(['1:6', '1:7'])).toMatch(/^RAID 6 6\+2: .* usable after/);
    expect(says([])).toBe('Tick the drives that join.');
  });
});

describe('changing and scrubbing', () => {
  test('priority moves the end of a job that is at work; what is done stays done', () => {
    const estate = bareEstate();
    run(estate, create());
    const before = [...estate.table('job').values()][0]!;
    run(estate, on('configure', { priority: 'high' }));
    const after = [...estate.table('job').values()][0]!;
    expect(after.finishesAt).toBeLessThan(before.finishesAt);
    expect(after).toMatchObject({ priority: 'high', startedAt: before.startedAt });
    expect(group(estate).priority).toBe('high');
  });
  test('a name is changed, unless another group has it', () => {
    const estate = whole();
    run(estate, create({ name: 'rg-2', drives: slots(1, 6, 11) }));
    expect(codesOf(estate, on('configure', { newName: 'RG-2' }))).toEqual(['name-taken']);
    run(estate, on('configure', { newName: 'keel' }));
    expect(group(estate, 'keel').drives).toHaveLength(6);
  });
  test('a scrub reads for hours at low priority, and is remembered', () => {
    const estate = whole();
    run(estate, on('scrub'));
    const [job] = [...estate.table('job').values()];
    expect((job!.finishesAt - basis.now) / HOUR).toBeGreaterThan(5);
    expect(codesOf(estate, on('scrub'))).toEqual(['group-busy']);
    finish(estate);
    expect(group(estate).scrubbedAt).toBe(job!.finishesAt);
  });
  test('jobs that keep data safe cannot be stopped, others can', () => {
    const estate = bareEstate();
    run(estate, create());
    const stop = () => ({ do: 'job.cancel', array: 'lintel-1', job: [...estate.table('job').values()][0]!.id });
    expect(codesOf(estate, stop())).toEqual(['job-must-run']);
    finish(estate);
    run(estate, on('scrub'));
    run(estate, stop());
    expect(estate.table('job').size).toBe(0);
    expect(codesOf(estate, { do: 'job.cancel', array: 'lintel-1', job: 'job_none' })).toEqual(['job-unknown']);
  });
  test('what rests on a group is named, with the order that would work', () => {
    const estate = whole();
    run(
      estate,
      { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'] },
      { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'log', size: '1 GiB' },
    );
    expect(refusalsOf(estate, on('delete'))[0]).toMatchObject({
      message: 'rg-1 carries pool quay, which holds 1 volume.',
      mend: 'Retire the volumes, then pool quay, then rg-1.',
    });
  });
});
