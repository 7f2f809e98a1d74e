import fc from 'fast-check';
import type { ContentProfile, Volume } from '../estate/entities';
import { GIB } from '../units/bytes';
import { DAY } from '../units/duration';
import { partsOf, standsAfter, usualActivity } from './activity';
import { sharesOf } from './parts';
import { wornContent } from './wear';

type Worn = Pick<Volume, 'activity' | 'content' | 'written' | 'holes'>;

const content: ContentProfile = {
  family: 'image',
  zero: 20,
  common: 60,
  span: 0,
  squeeze: 'text',
  driftDays: 0,
};
const activity = { ...usualActivity.database, writes: 200, workingSet: 0.4, hot: 0, hotShare: 0 };
const made = (more: Partial<Worn> = {}): Worn => ({ activity, content, written: 100 * GIB, holes: [], ...more });
const after = (volume: Worn, days: number): ContentProfile => {
  let present = volume;
  for (let day = 0; day < days; day++)
    present = { ...present, content: wornContent(present, day * DAY, (day + 1) * DAY) ?? present.content };
  return present.content;
};

test('zeros and equal pages go as they are written over, down to what is never rewritten', () => {
  const [day, year] = [after(made(), 1), after(made(), 365)];
  expect(day.zero).toBeLessThan(20);
  expect(day.common).toBeLessThan(60);
  expect(year.common).toBeLessThanOrEqual(day.common);
  // Six tenths of it are never written again.
  expect([year.zero, year.common]).toEqual([12, 36]);
  expect(after(made(), 700)).toMatchObject({ zero: 12, common: 36 });
});

test('day by day comes to the same as in one go, by the share that was never rewritten', () =>
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 2000 }), fc.integer({ min: 1, max: 20 }), (writes, days) => {
      const volume = made({ activity: { ...activity, writes } });
      const steps = after(volume, days);
      const whole = wornContent(volume, 0, days * DAY)!;
      expect(Math.abs(steps.common - whole.common)).toBeLessThanOrEqual(1);
      steps.worn!.fresh.forEach((share, k) => expect(share).toBeCloseTo(whole.worn!.fresh[k]!, 9));
      const parts = partsOf(volume.activity!);
      const stands = standsAfter(volume.activity!, { bytes: volume.written, parts, stands: [1, 1, 1] }, 0, days * DAY);
      const still = sharesOf(parts).reduce((sum, share, part) => sum + share * stands[part]!, 0);
      expect(whole.zero).toBe(Math.round(20 * still));
    }),
  ));

test('what is added is fresh', () => {
  const old = after(made(), 60);
  const grown = wornContent(made({ content: old, written: 300 * GIB }), 60 * DAY, 60 * DAY)!;
  // A third of it had lost four tenths, the rest is new.
  expect([old.common, grown.common]).toEqual([36, 52]);
  expect(grown.worn!.fresh[1]).toBeCloseTo(old.worn!.fresh[1]! / 3 + 2 / 3, 9);
});

test('nobody wears away what nobody writes, or what has neither', () => {
  expect(wornContent(made({ activity: null }), 0, DAY)).toBeNull();
  expect(wornContent(made({ content: { ...content, zero: 0, common: 0 } }), 0, DAY)).toBeNull();
  expect(wornContent(made({ activity: { ...activity, writes: 0 } }), 0, DAY)).toBeNull();
});
