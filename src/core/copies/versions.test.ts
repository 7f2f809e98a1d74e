import fc from 'fast-check';
import { planReclaim, restoreEffect, snapshotSpace, type Reclaimable, type Version } from './versions';

const versions: Version[] = [
  { born: 0, died: null, bytes: 400 },
  { born: 4, died: null, bytes: 15 },
  { born: 0, died: 3, bytes: 60 },
  { born: 1, died: 2, bytes: 25 },
  { born: 2, died: 4, bytes: 30 },
  { born: 1, died: 4, bytes: 12 },
  { born: 3, died: 3, bytes: 8 },
];

test('what copies hold together and alone; deleting one moves what it shared to its neighbours', () => {
  expect(snapshotSpace({ snapshots: [1, 2, 3], versions })).toEqual({
    liveBytes: 415,
    snapshotBytes: 127,
    uniqueBytes: new Map([
      [1, 25],
      [2, 0],
      [3, 0],
    ]),
    usedBytes: 542,
  });
  const after = snapshotSpace({ snapshots: [1, 3], versions });
  expect(after.usedBytes).toBe(542);
  expect([...after.uniqueBytes]).toEqual([
    [1, 85],
    [3, 30],
  ]);
});

test('room is won from what retention deletes, and with leave from what it keeps', () => {
  const snapshots: Reclaimable[] = [
    { epoch: 3, verdict: 'keep' },
    { epoch: 2, verdict: 'keep' },
    { epoch: 1, verdict: 'delete' },
  ];
  const plan = (more: object = {}) => planReclaim({ needBytes: 70, snapshots, versions, ...more });
  expect(plan()).toEqual({ delete: [1], freedBytes: 25, shortfallBytes: 45 });
  expect(plan({ early: true })).toEqual({ delete: [1, 2], freedBytes: 85, shortfallBytes: 0 });
  expect(plan({ early: true, minKeep: 2 })).toEqual({ delete: [1], freedBytes: 25, shortfallBytes: 45 });
  expect(plan({ needBytes: 0 })).toEqual({ delete: [], freedBytes: 0, shortfallBytes: 0 });
  const guarded = snapshots.map((one) => ({ ...one, protected: one.epoch !== 3 }));
  expect(plan({ early: true, snapshots: guarded })).toEqual({ delete: [], freedBytes: 0, shortfallBytes: 70 });
});

test('going back brings what was there, and drops what came since unless a safety copy keeps it', () => {
  const back = (safety: boolean) => restoreEffect({ snapshots: [1, 2, 3], versions, snapshot: 2, safety });
  expect(back(true)).toEqual({ restoredBytes: 102, droppedBytes: 15, freedBytes: 0, usedAfterBytes: 542 });
  expect(back(false)).toEqual({ restoredBytes: 102, droppedBytes: 15, freedBytes: 15, usedAfterBytes: 527 });
});

describe('for any versions and copies', () => {
  const version = fc
    .record({ born: fc.nat(12), life: fc.option(fc.nat(8), { nil: null }), bytes: fc.nat(1000) })
    .map(({ born, life, bytes }): Version => ({ born, died: life === null ? null : born + life, bytes }));
  const many = fc.array(version, { maxLength: 40 });
  const epochs = fc.uniqueArray(fc.nat(20), { maxLength: 12 });

  test('they agree with asking each version of each copy', () => {
    fc.assert(
      fc.property(many, epochs, (all, snapshots) => {
        const seen = (one: Version) => snapshots.filter((s) => one.died !== null && one.born <= s && s < one.died);
        const sum = (of: Version[]) => of.reduce((bytes, one) => bytes + one.bytes, 0);
        const space = snapshotSpace({ snapshots, versions: all });
        expect(space.snapshotBytes).toBe(sum(all.filter((one) => seen(one).length > 0)));
        for (const s of snapshots)
          expect(space.uniqueBytes.get(s)).toBe(sum(all.filter((one) => seen(one).length === 1 && seen(one)[0] === s)));
      }),
    );
  });

  test('what is said to be freed is freed', () => {
    fc.assert(
      fc.property(many, epochs, fc.nat(3000), fc.boolean(), (all, snapshots, needBytes, early) => {
        const marked = snapshots.map((epoch): Reclaimable => ({ epoch, verdict: epoch % 3 === 0 ? 'delete' : 'keep' }));
        const plan = planReclaim({ needBytes, snapshots: marked, versions: all, early });
        const left = snapshots.filter((epoch) => !plan.delete.includes(epoch));
        const used = (kept: number[]) => snapshotSpace({ snapshots: kept, versions: all }).usedBytes;
        expect(plan.freedBytes).toBe(used(snapshots) - used(left));
        expect(plan.shortfallBytes).toBe(Math.max(0, needBytes - plan.freedBytes));
      }),
    );
  });
});
