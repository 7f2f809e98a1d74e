import fc from 'fast-check';
import { basis, estateAfter, mounted, named } from '../../../demo/workbench';
import { usualActivity } from '../copies/activity';
import { aloneBytes, areaBytes, copiesOf, familyCopies, familyOf, fitCopies } from '../copies/area';
import { cutOf } from '../copies/cut';
import { dropped } from '../copies/drop';
import { lineageSpace } from '../copies/lineage';
import { sharesOf, shownBytes } from '../copies/parts';
import { changed, compacted, type Effect } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { newIds } from '../estate/new-ids';
import { writeTraffic } from '../lab/traffic';
import { brokenRules } from '../rules/book';
import { brokenSums, poolWaterfall } from '../space/waterfall';
import { GIB, MIB } from '../units/bytes';
import { DAY, HOUR, MINUTE, type Milliseconds } from '../units/duration';
import { purged } from '../volume/delete';
import { unmapRuns, writeRuns } from '../volume/grow';
import { goneBack } from './back';
import { cloneRow } from './clone-rows';

/** A mounted volume with 40 GiB written, rewritten as a database is. */
function busyEstate(): Estate {
  const estate = estateAfter(mounted);
  const device = [...estate.table('hostDevice').values()].find((one) => one.mountPoint !== null)!;
  estate.apply([
    changed('volume', named(estate, 'volume', 'tickets-1'), { activity: usualActivity.database }),
    changed('hostDevice', device, { writeRate: Math.floor((40 * GIB) / 3600) }),
  ]);
  pass(estate, basis.now, HOUR);
  estate.apply([changed('hostDevice', estate.table('hostDevice').get(device.id)!, { writeRate: 0 })]);
  return estate;
}

let ids = 0;
const newId = newIds('copies test');
const put = (estate: Estate, effects: readonly Effect[]) => estate.apply(compacted(effects));
function pass(estate: Estate, from: Milliseconds, span: Milliseconds): void {
  put(estate, writeTraffic(estate, span, from + span, newId).effects);
}
const tickets = (estate: Estate) => named(estate, 'volume', 'tickets-1');
const cut = (estate: Estate, at: Milliseconds) =>
  put(estate, cutOf(estate, [tickets(estate)], { name: `c${ids++}`, at }, newId).effects);

const clonesOfTickets = (estate: Estate) => [...estate.table('volume').by('origin', tickets(estate).id)];

/** What a lineage keeps apart by looking at all of it, however much of it is worked out in shorter ways. */
function areaByAll(estate: Estate): number {
  const root = tickets(estate);
  const copies = familyCopies(estate, root);
  const shares = sharesOf(root.parts);
  const order: typeof copies = [];
  for (let due = copies.filter((copy) => copy.parent === null); due.length > 0;) {
    order.push(...due);
    const ids = new Set(due.map((copy) => copy.id));
    due = copies.filter((copy) => copy.parent !== null && ids.has(copy.parent));
  }
  expect(order).toHaveLength(copies.length);
  const bytes = shares.reduce((sum, share, part) => {
    const nodes = [
      ...order.map((copy) => ({ ...copy, stands: copy.stands[part]!, bytes: shownBytes(copy) * share })),
      ...familyOf(estate, root).map(({ id, base, stands, ...volume }) => ({
        id,
        parent: base,
        stands: stands[part]!,
        bytes: shownBytes(volume) * share,
        kept: true,
      })),
    ];
    return sum + lineageSpace(nodes).bytes;
  }, 0);
  return bytes - shownBytes(root);
}

function addsUp(estate: Estate): void {
  expect(Math.abs(areaByAll(estate) - areaBytes(estate, tickets(estate)))).toBeLessThan(32 * 1024);
  expect(brokenRules(estate)).toEqual([]);
  for (const pool of estate.table('pool').values()) expect(brokenSums(estate, poolWaterfall(estate, pool))).toEqual([]);
  const volume = tickets(estate);
  const alone = aloneBytes(estate, volume);
  for (const copy of copiesOf(estate, volume.id)) {
    const bytes = alone.get(copy.id)!;
    expect(bytes).toBeGreaterThanOrEqual(0);
    expect(bytes).toBeLessThanOrEqual(areaBytes(estate, volume));
  }
}

test('a copy costs nothing until hosts write over what it shows, and then what they wrote over', () => {
  const estate = busyEstate();
  cut(estate, basis.now + HOUR);
  expect(areaBytes(estate, tickets(estate))).toBe(0);
  pass(estate, basis.now + HOUR, HOUR);
  const after = areaBytes(estate, tickets(estate));
  expect(after).toBeGreaterThan(GIB);
  expect(after).toBeLessThan(usualActivity.database.workingSet * shownBytes(tickets(estate)));
  addsUp(estate);
  const [copy] = copiesOf(estate, tickets(estate).id);
  expect(aloneBytes(estate, tickets(estate)).get(copy!.id)! / after).toBeCloseTo(1, 4);
  const { effects, freed } = dropped(estate, [copy!], newId);
  put(estate, effects);
  expect(freed).toBe(after);
  expect(tickets(estate)).toMatchObject({ base: null, copiesBytes: 0 });
  addsUp(estate);
});

test('whether time passes in one stretch or in many, the same is kept', () => {
  const [whole, parts] = [busyEstate(), busyEstate()];
  for (const estate of [whole, parts]) cut(estate, basis.now + HOUR);
  pass(whole, basis.now + HOUR, 2 * DAY);
  for (let k = 0; k < 96; k++) pass(parts, basis.now + HOUR + k * 30 * MINUTE, 30 * MINUTE);
  const [a, b] = [areaBytes(whole, tickets(whole)), areaBytes(parts, tickets(parts))];
  expect(Math.abs(a - b)).toBeLessThan(MIB);
});

test('going back and forth gives the bytes and the file system of the moment', () => {
  const estate = busyEstate();
  cut(estate, basis.now + HOUR);
  const [first] = copiesOf(estate, tickets(estate).id);
  const device = () => [...estate.table('hostDevice').values()].find((one) => one.mountPoint !== null)!;
  estate.apply([changed('hostDevice', device(), { writeRate: Math.floor(GIB / 60) })]);
  pass(estate, basis.now + HOUR, 10 * MINUTE);
  cut(estate, basis.now + 70 * MINUTE);
  const grown = { written: tickets(estate).written, used: device().used };
  expect(grown.written).toBeGreaterThan(first!.written);
  const back = goneBack(estate, tickets(estate), first!, basis.now + 70 * MINUTE, newId);
  expect(back.short).toBe(0);
  put(estate, back.effects);
  expect(tickets(estate).written).toBe(first!.written);
  expect(device().used).toBe(first!.image!.used);
  addsUp(estate);
  const second = copiesOf(estate, tickets(estate).id).at(-1)!;
  put(estate, goneBack(estate, tickets(estate), second, basis.now + 71 * MINUTE, newId).effects);
  expect({ written: tickets(estate).written, used: device().used }).toEqual(grown);
  addsUp(estate);
});

test('after any run of writes, cuts, deletions, blocks given back and returns all parts add up to the byte', () => {
  const step = fc.oneof(
    fc.record({ do: fc.constant('pass' as const), span: fc.integer({ min: 1, max: 600 }) }),
    fc.record({ do: fc.constant('cut' as const), span: fc.constant(0) }),
    fc.record({ do: fc.constant('drop' as const), span: fc.nat(20) }),
    fc.record({ do: fc.constant('back' as const), span: fc.nat(20) }),
    fc.record({ do: fc.constant('unmap' as const), span: fc.nat(30) }),
    fc.record({ do: fc.constant('clone' as const), span: fc.nat(20) }),
    fc.record({ do: fc.constant('write' as const), span: fc.nat(20) }),
    fc.record({ do: fc.constant('leave' as const), span: fc.nat(20) }),
  );
  fc.assert(
    fc.property(fc.array(step, { minLength: 3, maxLength: 25 }), (steps) => {
      const estate = busyEstate();
      let now = basis.now + HOUR;
      for (const one of steps) {
        const volume = tickets(estate);
        const copies = copiesOf(estate, volume.id);
        const chosen = copies[one.span % Math.max(1, copies.length)];
        if (one.do === 'pass') {
          pass(estate, now, one.span * MINUTE);
          now += one.span * MINUTE;
        } else if (one.do === 'cut') cut(estate, (now += 1));
        else if (one.do === 'unmap')
          put(estate, unmapRuns(estate, volume, [[one.span * GIB, (one.span + 1) * GIB]], newId).effects);
        else if (chosen && one.do === 'drop') {
          const before = areaBytes(estate, volume);
          const { effects, freed } = dropped(estate, [chosen], newId);
          put(estate, effects);
          expect(areaBytes(estate, tickets(estate))).toBe(before - freed);
          expect(freed).toBeGreaterThanOrEqual(0);
        } else if (chosen && one.do === 'back') put(estate, goneBack(estate, volume, chosen, now, newId).effects);
        else if (chosen && one.do === 'clone') {
          const before = areaBytes(estate, volume);
          put(estate, cloneRow(estate, chosen, { name: `k${ids++}`, now, shown: false, notes: '' }, newId).effects);
          // It shows what its copy shows: nothing is kept apart for it.
          expect(areaBytes(estate, tickets(estate))).toBe(before);
        } else {
          const clones = clonesOfTickets(estate);
          const clone = clones[one.span % Math.max(1, clones.length)];
          if (!clone) continue;
          if (one.do === 'leave') put(estate, purged(estate, clone, newId));
          else if (one.span % 3 === 0)
            put(estate, cutOf(estate, [clone], { name: `c${ids++}`, at: (now += 1) }, newId).effects);
          else {
            put(estate, writeRuns(estate, clone, [[one.span * GIB, one.span * GIB + 300 * MIB]], newId, now).effects);
            const row = estate.table('volume').get(clone.id)!;
            const stands = row.stands.map((share) => share * 0.8);
            estate.apply([changed('volume', row, { stands })]);
            put(estate, fitCopies(estate, row.id, newId).effects);
          }
        }
        addsUp(estate);
      }
      for (const clone of clonesOfTickets(estate)) put(estate, purged(estate, clone, newId));
      put(estate, dropped(estate, copiesOf(estate, tickets(estate).id), newId).effects);
      expect(estate.table('snapshot').size).toBe(0);
      expect(areaBytes(estate, tickets(estate))).toBe(0);
      addsUp(estate);
    }),
    { numRuns: 40 },
  );
});

test('what deleting gives back is what it alone kept, to the page', () => {
  const estate = busyEstate();
  let now = basis.now + HOUR;
  for (let k = 0; k < 8; k++) {
    cut(estate, now);
    pass(estate, now, HOUR);
    now += HOUR;
  }
  for (const which of [3, 0, 4, 1]) {
    const copy = copiesOf(estate, tickets(estate).id)[which]!;
    const alone = aloneBytes(estate, tickets(estate)).get(copy.id)!;
    const { effects, freed } = dropped(estate, [copy], newId);
    expect(Math.abs(freed - alone)).toBeLessThanOrEqual(32 * 1024);
    put(estate, effects);
  }
  addsUp(estate);
});
