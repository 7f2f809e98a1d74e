import { stage } from '../../../demo/protected';
import { demoEstate } from '../../../demo/scenario';
import { basis, named } from '../../../demo/workbench';
import { planChange, unfolded } from '../change/plan';
import { askable, type OperationDocument } from '../change/registry';
import { keepings } from '../kinds/kept-request';
import { readRule } from '../classes/rule-text';
import type { RequestRule } from '../classes/rules';
import { formSpec } from '../operation/form';
import { TIB } from '../units/bytes';
import { headroomsOf } from '../performance/pool-headroom';
import { requestWords } from './request-fields';
import { placesOf, type SeveralAsked } from './several';
import { roomOf } from './place';

const { estate: demo } = demoEstate();
const headroom = headroomsOf(demo);
const rule = (line: string): RequestRule => {
  const read = readRule(line);
  if (!read.ok) throw new Error(read.message);
  return read.value;
};
const ask = (more: Partial<SeveralAsked>) =>
  placesOf(
    demo,
    { bytes: TIB, iops: 100, volumes: 3, keeping: 'spread', rules: [], replica: false, ...more },
    headroom,
  );
const planned = (...documents: OperationDocument[]) => planChange(demo, documents, basis);

describe('several volumes', () => {
  test('together in one pool, apart in as many as there are of them', () => {
    expect(ask({ keeping: 'together', volumes: 8 }).placed).toMatchObject([{ volumes: 8 }]);
    expect(ask({ keeping: 'apart' }).placed.map(({ volumes }) => volumes)).toEqual([1, 1, 1]);
    const many = ask({ keeping: 'apart', volumes: 9, iops: 0 });
    expect(many.placed).toHaveLength(6);
    expect(many).toMatchObject({ unplaced: 3 });
    expect(many.says).toMatch(/3 of 9 find no place: no pool takes two of them\.$/);
  });

  test.each(keepings)('%s: none is lost, and no pool takes more than its room and service', (keeping) => {
    for (const volumes of [2, 5, 17, 60]) {
      const { placed, unplaced } = ask({ keeping, volumes, iops: 2000 });
      expect(placed.reduce((sum, one) => sum + one.volumes, unplaced)).toBe(volumes);
      for (const one of placed) {
        const room = roomOf(demo, demo.table('pool').get(one.id)!, headroom);
        expect(one.volumes * TIB).toBeLessThanOrEqual(room.limitBytes - room.usedBytes);
        expect(one.volumes * 2000).toBeLessThanOrEqual(room.perfLimit - room.perfUsed);
      }
    }
  });

  test('only where rules are met, and where a copy finds its place too', () => {
    expect(ask({ rules: [rule('site is Molenhaven')] }).placed).toMatchObject([{ array: 'lintel-2', volumes: 3 }]);
    expect(ask({ rules: [rule('site is Oever')] })).toMatchObject({
      placed: [],
      unplaced: 3,
      says: 'They find no place: what is asked leaves pools out.',
    });
    // No array of the small estate is introduced to another.
    const at = stage();
    const alone = { bytes: TIB / 100, iops: 0, volumes: 2, keeping: 'spread' as const, rules: [] };
    const own = headroomsOf(at.estate);
    expect(placesOf(at.estate, { ...alone, replica: false }, own).unplaced).toBe(0);
    expect(placesOf(at.estate, { ...alone, replica: true }, own).unplaced).toBe(2);
  });
});

const keep = { do: 'request.create', name: 'Next quarter', size: '1 TiB', volumes: 3, keeping: 'apart' };

describe('requests that are kept', () => {
  test('one is kept, changed in what is named, and dropped', () => {
    const at = stage();
    at.run({ do: 'class.create', name: 'safe', rules: ['protection at least 1'] });
    at.run({ ...keep, class: 'safe', rules: ['site is Nordkai'], iops: 400 });
    const row = () => named(at.estate, 'keptRequest', 'Next quarter');
    expect(requestWords(at.estate, row())).toBe(
      '3 volumes of 1 TiB; apart, each in a pool of its own; 400 IO/s each; safe; site is Nordkai',
    );
    at.run({ do: 'request.configure', request: 'Next quarter', volumes: 2 });
    expect(row()).toMatchObject({ volumes: 2, iops: 400, keeping: 'apart', rules: [{ key: 'site' }] });
    at.run({ do: 'class.delete', class: 'safe' });
    expect(row()).toMatchObject({ serviceClass: null, rules: [{ key: 'protection' }, { key: 'site' }] });
    at.run({ do: 'request.configure', request: 'Next quarter', rules: [] });
    expect(row().rules).toEqual([]);
    at.run({ do: 'request.delete', request: 'Next quarter' });
    expect(at.estate.table('keptRequest').size).toBe(0);
  });

  test('what cannot be asked is refused', () => {
    const at = stage();
    expect(at.codes({ ...keep, size: '1' })).toEqual(['unit-missing']);
    expect(at.codes({ ...keep, rules: ['cost between 60 and 40'] })).toEqual(['rule-range-inverted']);
    expect(at.codes({ ...keep, class: 'nothing' })).toEqual(['service-class-unknown']);
    at.run(keep);
    expect(at.codes({ ...keep, name: 'NEXT QUARTER' })).toEqual(['name-taken']);
    expect(at.codes({ do: 'request.configure', request: 'Next quarter', rules: ['cost is 1', 'cost is 2'] })).toEqual([
      'rules-contradict',
    ]);
  });
});

describe('carving where it fits best', () => {
  const carve = { do: 'storage.carve', name: 'journal', size: '1 TiB', volumes: 12, keeping: 'spread' };

  test('a series keeps its numbers over several pools, and each volume lies where it was said', () => {
    const { overlay, refusals } = planned(carve);
    expect(refusals).toEqual([]);
    const made = [...overlay.table('volume').values()].filter(({ name }) => name.startsWith('journal-'));
    expect(made.map(({ name }) => name).sort()).toEqual(
      Array.from({ length: 12 }, (_, k) => `journal-${String(k + 1).padStart(2, '0')}`),
    );
    const counts = new Map<string, number>();
    for (const { pool } of made) counts.set(pool, (counts.get(pool) ?? 0) + 1);
    expect([...counts].sort()).toEqual(
      ask({ volumes: 12, iops: 0 })
        .placed.map(({ id, volumes }) => [id, volumes])
        .sort(),
    );
  });

  test('from a request that is kept, with its class put on; what is named beside it counts instead', () => {
    const kept = planned(
      { do: 'class.create', name: 'safe', rules: ['protection at least 1'] },
      { ...keep, volumes: 2, class: 'safe', rules: ['site is Nordkai'] },
      { ...keep, name: 'Far', volumes: 1, iops: 40, rules: ['site is Molenhaven'] },
    );
    const carved = (more: object = {}) =>
      unfolded(kept.overlay, [{ do: 'storage.carve', name: 'j', request: 'Next quarter', ...more }], basis).map(
        ({ do: kind, name, volumes }) => [kind, name ?? volumes],
      );
    expect(carved()).toEqual([
      ['volume.create', 'j-1'],
      ['class.apply', ['j-1']],
      ['volume.create', 'j-2'],
      ['class.apply', ['j-2']],
    ]);
    for (const class_ of ['', '-']) expect(carved({ volumes: 1, class: class_ })).toEqual([['volume.create', 'j']]);
    // Its sheet sends no empty rules: those of the request count.
    const type = askable('storage.carve')!;
    expect(formSpec(type).fields.find(({ name }) => name === 'rules')!.keepEmpty).toBeUndefined();
    const said = (request: string) =>
      type.foretell(kept.overlay, { request, name: 'j' }, { ...basis, newId: () => 'x' }).fields;
    expect(said('Next quarter').class!.choices!.slice(0, 2)).toEqual([
      { value: '', label: 'As it is: safe' },
      { value: '-', label: 'None' },
    ]);
    expect(said('Far').rules!.says).toMatch(/^lintel-2 quay alone fits/);
    expect(said('Far').iops!.suggested).toBe('40');
  });

  test('nothing is carved where one of them finds no place', () => {
    const { refusals } = planned({ ...carve, keeping: 'apart' });
    expect(refusals).toMatchObject([{ code: 'no-pool-fits' }]);
    expect(planned({ ...carve, size: undefined }).refusals).toMatchObject([{ code: 'empty', field: 'size' }]);
  });
});
