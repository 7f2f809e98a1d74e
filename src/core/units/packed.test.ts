import fc from 'fast-check';
import { packed, unpacked, type Packed } from './packed';

const row = fc.record({
  id: fc.string(),
  post: fc.constantFrom('stands', 'leans'),
  tags: fc.array(fc.constantFrom('FC', 'IS'), { maxLength: 2 }),
  pool: fc.option(fc.nat(3)),
  paths: fc.record({ usable: fc.nat(4), expected: fc.nat(4) }),
});

describe('packed rows', () => {
  test('come back as they were, also by way of text', () =>
    fc.assert(
      fc.property(fc.array(row, { maxLength: 40 }), (rows) => {
        expect(unpacked(packed(rows))).toEqual(rows);
        const sent = JSON.parse(JSON.stringify(packed(rows))) as Packed<object>;
        expect(unpacked(sent)).toEqual(JSON.parse(JSON.stringify(rows)));
      }),
    ));

  test('a value that repeats is written once', () => {
    const rows = Array.from({ length: 100 }, (_, k) => ({ id: `vol_${k}`, post: 'stands' }));
    expect(packed(rows).columns.post).toEqual({ of: ['stands'], at: rows.map(() => 0) });
    expect(packed(rows).columns.id).toHaveLength(100);
  });

  test('no rows are no columns', () => expect(unpacked(packed([]))).toEqual([]));
});
