import { stage, type Stage } from '../../../demo/protected';
import { named } from '../../../demo/workbench';
import { brokenRules } from '../rules/book';
import { changed, compacted } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import { storeOf } from '../pool/store';
import { GIB } from '../units/bytes';
import { DAY } from '../units/duration';
import { nightly } from './nightly';

const content = { family: 'rota', zero: 12, common: 60, span: 0, squeeze: 'text' as const, driftDays: 0 };

/** What hosts work with lies in the reduced store of its pool, beside a sister volume. */
function reduced(): Stage {
  const at = stage();
  const pool = named(at.estate, 'pool', 'quay');
  at.estate.apply([changed('pool', pool, { dedupe: 'scheduled', compression: true })]);
  for (const name of ['tickets-1', 'tickets-2'])
    at.estate.apply([changed('volume', named(at.estate, 'volume', name), { content })]);
  return at;
}
const volume = (at: Stage, name = 'tickets-1') => named(at.estate, 'volume', name);
const nights = (at: Stage, count: number) => {
  for (let k = 0; k < count; k++) {
    at.now = (Math.floor(at.now / DAY) + 1) * DAY;
    at.estate.apply(compacted(nightly(at.estate, at.now, newIds(`night ${at.now}`)).effects));
  }
};

test('what hosts rewrite is no zero and no equal page any more; what nobody works with stays', () => {
  const at = reduced();
  nights(at, 1);
  const { zero, common, worn } = volume(at).content;
  expect(zero).toBeLessThan(12);
  expect(common).toBeLessThan(60);
  expect(worn!.fresh[2]).toBe(1);
  expect(volume(at, 'tickets-2').content).toEqual(content);
  nights(at, 30);
  // The rest of it is never written over: seven tenths of what a database has.
  expect(volume(at).content).toMatchObject({ zero: Math.round(12 * 0.7), common: Math.round(60 * 0.7) });
});

test('the reduced store takes what that costs, as long as there is room', () => {
  const at = reduced();
  const row = volume(at);
  at.estate.apply([
    ...[...at.estate.table('extent').by('volume', row.id)].map((run) => ({
      kind: 'extent' as const,
      id: run.id,
      before: run,
      after: null,
    })),
    changed('volume', row, { reducedTo: row.written, reduction: true }),
  ]);
  const pool = () => named(at.estate, 'pool', 'quay');
  const bytes = () => storeOf(at.estate, pool()).bytes;
  const before = bytes();
  nights(at, 1);
  // Pages that were equal, or zeros, take room of their own from now on.
  expect(bytes()).toBeGreaterThan(before + GIB / 4);
  expect(at.estate.occupancy.allocated(pool().id)).toBe(Math.ceil(bytes() / pool().extentSize));
  expect(brokenRules(at.estate)).toEqual([]);
});
