import fc from 'fast-check';
import { planChange } from '@/core/change/plan';
import { planUndo } from '@/core/change/undo';
import { estateDocument, estateFromDocument, estateToDocument } from '@/core/estate/document';
import { Overlay } from '@/core/estate/estate';
import { randomFrom } from '@/core/estate/random';
import { brokenRules } from '@/core/rules/book';
import { classes } from '../demo/classes';
import { LAB_START } from '../demo/hardware';
import { load } from '../demo/load';
import { machines } from '../demo/machines';
import { corbelBefore, corbelFound, corbelLeft, corbelRows, madeOutside } from '../demo/outside';
import { protectedDemo } from '../demo/protection';
import { carryOut, differences } from '../demo/workbench';
import { askables, randomOperation } from './random-operation';
import { Story } from './story';

const estate = protectedDemo();
// With limits, tier policies, classes and allotments, so that what hangs on them can be done.
carryOut(estate, [...load, ...classes, ...machines], 'asked');
// And with an old array whose LUNs can be taken over.
estate.apply(corbelRows());
carryOut(estate, [...corbelBefore, ...corbelLeft], 'old');
estate.apply(madeOutside(estate));
carryOut(estate, corbelFound, 'found');
const lives = fc.integer({ min: 0, max: 1_000_000 }).map((seed) => `life ${seed}`);

function lived(seed: string, steps: number): Story {
  const story = new Story(new Overlay(estate), seed, LAB_START);
  for (let k = 0; k < steps; k++) story.step();
  return story;
}

describe('whatever is done, undone later, broken and passed over', () => {
  test('no rule is broken, and no operation is held by the rule book alone', () =>
    fc.assert(
      fc.property(lives, (seed) => {
        const story = lived(seed, 60);
        expect(story.wrongs).toEqual([]);
        expect(brokenRules(story.estate)).toEqual([]);
      }),
      { numRuns: 15 },
    ));

  test('what comes out is exported, and goes into an empty instance as it is', () =>
    fc.assert(
      fc.property(lives, (seed) => {
        const story = lived(seed, 40);
        const text = JSON.stringify(estateToDocument(story.estate));
        const again = estateFromDocument(estateDocument.parse(JSON.parse(text)));
        expect(differences(again, story.estate)).toEqual([]);
        expect(brokenRules(again)).toEqual([]);
      }),
      { numRuns: 5 },
    ));

  test('what is done and taken back at once leaves the estate as it was', () =>
    fc.assert(
      fc.property(lives, (seed) => {
        const story = lived(seed, 20);
        const random = randomFrom(`${seed} at once`);
        for (let k = 0; k < 25; k++) {
          // Not the seed of a step of that life: its ids would come a second time.
          const basis = { seed: `${seed} at once ${k}`, now: story.now, month: '2031-05' };
          const operation = randomOperation(story.estate, basis, random);
          const { steps, refusals, overlay } = planChange(story.estate, [operation], basis);
          if (refusals.length > 0 || steps.some((step) => step.destroys)) continue;
          const undone = planUndo(overlay, steps);
          expect([operation, undone.refusals]).toEqual([operation, []]);
          expect(differences(undone.overlay, story.estate)).toEqual([]);
        }
      }),
      { numRuns: 6 },
    ));
});

test('operations of every kind are drawn, and most can be carried out', () => {
  const random = randomFrom('each in turn');
  const carriedOut = new Set<string>();
  // Those that were carried out are left alone, so that the others have more turns.
  for (let round = 0; round < 20; round++)
    for (const type of askables.filter(({ kind }) => round < 3 || !carriedOut.has(kind))) {
      const basis = { seed: `${round}`, now: LAB_START, month: '2031-04' };
      const operation = randomOperation(estate, basis, random, type);
      const { refusals } = planChange(estate, [operation], basis);
      if (refusals.length === 0) carriedOut.add(type.kind);
      for (const refusal of refusals) {
        expect(refusal.message).toMatch(/[.?]$/);
        expect(refusal.mend).toMatch(/[.?]$/);
      }
    }
  // What needs something that the demo has not just now (a retired volume, a mute, a lost site) is reached in the lives above.
  expect(carriedOut.size / askables.length).toBeGreaterThan(0.55);
});
