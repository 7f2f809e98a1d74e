import fc from 'fast-check';
import { goodput, shareLink, shareNetwork } from './shares';

const value = <T>(found: { ok: true; value: T } | { ok: false; reason: string }): T => {
  if (!found.ok) throw new Error(found.reason);
  return found.value;
};
const reason = (found: { ok: boolean; reason?: string }) => (found.ok ? 'ok' : found.reason);

test('one link is shared by weights, within caps and wishes', () => {
  const found = value(
    shareLink({
      capacity: 1000,
      flows: [
        { id: 'cargo', weight: 5, demand: 300 },
        { id: 'tickets', weight: 3, cap: 450 },
        { id: 'radar', weight: 1 },
        { id: 'rota', weight: 1, cap: 60 },
      ],
    }),
  );
  expect(found).toEqual({ alloc: { cargo: 300, tickets: 450, radar: 190, rota: 60 }, theta: 190 });
  expect(value(shareLink({ capacity: 100, flows: [{ id: 'a', weight: 1, demand: 100 }] }))).toEqual({
    alloc: { a: 100 },
    theta: null,
  });
  expect(reason(shareLink({ capacity: 1, flows: [{ id: 'a', weight: 0 }] }))).toBe('share-weight-not-positive');
});

test('several links are shared at once, and each flow knows what holds it', () => {
  const flows = [
    { id: 'cargo', weight: 2, path: ['fibre'] },
    { id: 'tickets', weight: 1, cap: 200, path: ['fibre'] },
    { id: 'radar', weight: 1, path: ['fibre', 'leased'] },
  ];
  expect(value(shareNetwork({ links: { fibre: 1000, leased: 120 }, flows }))).toEqual({
    alloc: { cargo: 680, tickets: 200, radar: 120 },
    boundBy: { cargo: 'fibre', tickets: 'cap', radar: 'leased' },
  });
  const no = (flow: Partial<(typeof flows)[number]>) =>
    reason(shareNetwork({ links: { fibre: 1 }, flows: [{ ...flows[0]!, ...flow }] }));
  expect(no({ weight: -1 })).toBe('share-weight-not-positive');
  expect(no({ path: ['wire'] })).toBe('share-link-unknown');
  expect(no({ path: [] })).toBe('share-unbounded');
});

const someFlows = fc.array(
  fc.record({
    weight: fc.integer({ min: 1, max: 9 }),
    cap: fc.integer({ min: 1, max: 500 }),
    path: fc.subarray(['a', 'b', 'c'], { minLength: 1 }),
  }),
  { minLength: 1, maxLength: 8 },
);

test('no link carries more than it can, and whoever could have more is held by what is full', () =>
  fc.assert(
    fc.property(someFlows, fc.integer({ min: 0, max: 900 }), (some, capacity) => {
      const flows = some.map((flow, k) => ({ ...flow, id: `f${k}` }));
      const links = { a: capacity, b: 300, c: 100 };
      const { alloc, boundBy } = value(shareNetwork({ links, flows }));
      const used = (link: string) =>
        flows.reduce((sum, flow) => sum + (flow.path.includes(link) ? alloc[flow.id]! : 0), 0);
      for (const [link, most] of Object.entries(links)) expect(used(link)).toBeLessThanOrEqual(most + 1e-6);
      for (const { id, cap } of flows) {
        expect(alloc[id]).toBeLessThanOrEqual(cap + 1e-9);
        if (boundBy[id] === 'cap') expect(alloc[id]).toBe(cap);
        else expect(used(boundBy[id]!)).toBeCloseTo(links[boundBy[id] as 'a'], 6);
      }
    }),
  ));

test('one link of the network is shared as one link alone', () =>
  fc.assert(
    fc.property(someFlows, fc.integer({ min: 1, max: 900 }), (some, capacity) => {
      const flows = some.map(({ weight, cap }, k) => ({ id: `f${k}`, weight, cap, path: ['a'] }));
      const alone = value(shareLink({ capacity, flows })).alloc;
      const all = value(shareNetwork({ links: { a: capacity }, flows })).alloc;
      for (const { id } of flows) expect(all[id]).toBeCloseTo(alone[id]!, 6);
    }),
  ));

test('what a line brings through', () => {
  const line = { linkBitsPerS: 1e9, efficiency: 0.94, rttS: 0.009, sessions: 2, windowBytes: 512 * 1024 };
  const free = goodput(line);
  expect(free.bytesPerS / 1e6).toBeCloseTo(116.5, 1);
  expect(free.boundBy).toBe('window');
  const lossy = goodput({ ...line, lossFraction: 1e-4 });
  expect(lossy.bytesPerS / 1e6).toBeCloseTo(39.7, 1);
  expect(lossy.boundBy).toBe('loss');
  expect(goodput({ ...line, rttS: 0, lossFraction: 0.1 })).toEqual({ bytesPerS: 117.5e6, boundBy: 'link' });
});
