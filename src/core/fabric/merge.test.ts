import fc from 'fast-check';
import { mergeFabrics, type MergeSide } from './merge';

describe('merging fabrics', () => {
  const zone = (...members: string[]) => ({ kind: 'ordinary' as const, members, principals: [] });
  const side = (zones: Record<string, ReturnType<typeof zone>> | null, more: Partial<MergeSide> = {}): MergeSide => ({
    zones: zones && new Map(Object.entries(zones)),
    setName: 'harbour',
    aliases: new Map(),
    defaultZone: 'deny',
    mergeControl: 'allow',
    domains: [1],
    raTov: 10_000,
    edTov: 2_000,
    ...more,
  });
  const other = (zones: Record<string, ReturnType<typeof zone>> | null, more: Partial<MergeSide> = {}) =>
    side(zones, { domains: [2], ...more });

  test('equal zones in another order merge, and others are added', () => {
    const result = mergeFabrics(side({ z1: zone('i1', 't1') }), other({ z1: zone('t1', 'I1'), z2: zone('i2', 't1') }));
    expect(result.outcome).toBe('merged');
    expect([...result.zones.keys()]).toEqual(['z1', 'z2']);
  });

  test.each<[string, MergeSide, MergeSide]>([
    ['timer-mismatch', side({}), other({}, { edTov: 4_000 })],
    ['domain-overlap', side({}), other({}, { domains: [1] })],
    ['default-zone-differs', side({}), other({}, { defaultZone: 'permit' })],
    ['merge-control-differs', side({}), other({}, { mergeControl: 'restrict' })],
    [
      'restrict-not-identical',
      side({ z: zone('i') }, { mergeControl: 'restrict' }),
      other(null, { mergeControl: 'restrict' }),
    ],
    ['zone-content-differs', side({ z1: zone('i1', 't1') }), other({ z1: zone('i1', 't2') })],
    [
      'zone-kind-differs',
      side({ z1: zone('i1') }),
      other({ z1: { kind: 'peer', members: ['i1'], principals: [] } as never }),
    ],
    [
      'alias-content-differs',
      side({}, { aliases: new Map([['x', ['1']]]) }),
      other({}, { aliases: new Map([['x', ['2']]]) }),
    ],
    ['name-kind-clash', side({ x: zone('i') }), other({}, { aliases: new Map([['x', ['2']]]) })],
  ])('%s', (kind, a, b) => {
    const result = mergeFabrics(a, b);
    expect(result.outcome).toBe('isolated');
    expect(result.conflicts.map((one) => one.kind)).toEqual([kind]);
  });

  const zones = fc.dictionary(
    fc.constantFrom('z1', 'z2', 'z3'),
    fc.uniqueArray(fc.constantFrom('a', 'b', 'c'), { minLength: 1 }).map((members) => zone(...members)),
  );
  test('it does not matter which side asks, and what is merged merges with either part', () =>
    fc.assert(
      fc.property(zones, zones, (one, two) => {
        const [a, b] = [side(one), other(two)];
        const result = mergeFabrics(a, b);
        expect(mergeFabrics(b, a).conflicts).toEqual(result.conflicts);
        if (result.outcome === 'merged')
          for (const part of [a, b])
            expect(mergeFabrics({ ...side({}), zones: result.zones, domains: [99] }, part).conflicts).toEqual([]);
      }),
    ));
});
