import fc from 'fast-check';
import type { MutedFinding } from './engine';
import { severities } from './finding';
import { findingsTold, type FindingsAsked } from './told';

const checks = ['a', 'b', 'c', 'silent'].map((id) => ({ id }));
const severityOf: Record<string, MutedFinding['severity']> = { a: 'error', b: 'warning', c: 'note' };

function finding(check: string, k: number, more: Partial<MutedFinding> = {}): MutedFinding {
  const subject = { kind: 'volume' as const, id: `vol_${check}_${k}`, name: `${check}-${k}` };
  const says = `${check} is said of ${k}`;
  return {
    check,
    severity: severityOf[check]!,
    subject,
    says,
    advice: '',
    mend: null,
    muted: null,
    because: null,
    ...more,
  };
}
const some = (check: string, count: number) => Array.from({ length: count }, (_, k) => finding(check, k));
const all: FindingsAsked = { words: '', muted: false, each: Infinity };
const muted = { id: 'mute_1', reason: 'known', until: 5 };

test('of each check some are told, and how many more there are', () => {
  const told = findingsTold([...some('a', 2), ...some('b', 7), ...some('c', 4)], checks, { ...all, each: 3 });
  expect(told.items.map(({ check }) => check).join('')).toBe('aabbbccc');
  expect(told.more).toEqual([
    { check: 'b', severity: 'warning', count: 4 },
    { check: 'c', severity: 'note', count: 1 },
  ]);
  expect(told.counts).toEqual({ act: 9, know: 4, hang: 0, muted: 0 });
  expect(told.bySeverity).toEqual({ error: 2, warning: 7, note: 4 });
  expect(told.quiet).toEqual(['silent']);
});

test('nothing but the counts where none is asked for', () => {
  const { items, counts } = findingsTold(some('b', 7), checks, { ...all, each: 0 });
  expect(items).toEqual([]);
  expect(counts.act).toBe(7);
});

test('what hangs on a cause comes with it, and by itself where it is looked for by words', () => {
  const [cause, other] = some('a', 2);
  const because = { id: cause!.subject.id, name: 'a-0' };
  const hangs = some('b', 5).map((one) => ({ ...one, because }));
  const told = findingsTold([cause!, other!, ...hangs], checks, { ...all, each: 2 });
  expect(told.items.map(({ subject }) => subject.name)).toEqual(['a-0', 'a-1', 'b-0', 'b-1']);
  expect(told.hanging).toEqual({ [because.id]: 5 });
  expect(told.counts).toEqual({ act: 2, know: 0, hang: 5, muted: 0 });
  // Of a cause that is not told, nothing hangs in the air.
  expect(findingsTold([cause!, ...hangs], checks, { ...all, each: 0 }).items).toEqual([]);
  expect(findingsTold([cause!, ...hangs], checks, { ...all, words: 'B-3' }).items).toEqual([hangs[3]]);
});

test('muted ones are counted, and told where they are asked for', () => {
  const found = [finding('a', 0), finding('a', 1, { muted })];
  expect(findingsTold(found, checks, all)).toMatchObject({ items: [found[0]], counts: { act: 1, muted: 1 } });
  expect(findingsTold(found, checks, { ...all, muted: true })).toMatchObject({ items: found, counts: { act: 1 } });
});

test('what is told and what is not add up to all', () => {
  fc.assert(
    fc.property(
      fc.array(fc.record({ check: fc.constantFrom('a', 'b', 'c'), quiet: fc.boolean(), hangs: fc.boolean() })),
      fc.nat(4),
      fc.boolean(),
      (rows, each, withMuted) => {
        const found = rows.map(({ check, quiet, hangs }, k) =>
          finding(check, k, {
            muted: quiet ? muted : null,
            because: hangs && k > 0 ? { id: `vol_${rows[0]!.check}_0`, name: 'x' } : null,
          }),
        );
        const told = findingsTold(found, checks, { words: '', muted: withMuted, each });
        const asked = found.filter((one) => withMuted || one.muted === null);
        const alone = told.items.filter(({ because }) => because === null).length;
        expect(alone + told.more.reduce((sum, { count }) => sum + count, 0)).toBe(
          asked.filter(({ because }) => because === null).length,
        );
        expect(severities.reduce((sum, severity) => sum + told.bySeverity[severity], 0)).toBe(
          asked.filter(({ because }) => because === null).length,
        );
        expect(told.counts.act + told.counts.know + told.counts.hang).toBe(asked.length);
      },
    ),
  );
});
