import { changed } from '@/core/estate/effects';
import { Plant } from './plant';
import { Problem } from './problem';
import { inSlices, ofOneMoment } from './slices';

/** Keeps the thread for some milliseconds. */
const busy = (ms: number) => {
  const end = performance.now() + ms;
  while (performance.now() < end);
};
function* work(parts: number, each = 5): Generator<{ done: number; of: number }, number> {
  for (let k = 0; k < parts; k++) {
    busy(each);
    yield { done: k + 1, of: parts };
  }
  return parts;
}
const codeOf = async (promise: Promise<unknown>): Promise<string> => {
  try {
    await promise;
  } catch (error) {
    return Problem.is(error) ? error.code : String(error);
  }
  return 'none';
};

test('others are answered between slices, and told how far the work is', async () => {
  let turns = 0;
  const timer = setInterval(() => (turns += 1), 1);
  const seen: number[] = [];
  expect(await inSlices(work(30), { progress: ({ done }) => seen.push(done) })).toBe(30);
  clearInterval(timer);
  expect(turns).toBeGreaterThan(4);
  expect(seen.length).toBeGreaterThan(4);
  expect([...seen].sort((a, b) => a - b)).toEqual(seen);
});

test('a request that is taken back ends its work', async () => {
  const controller = new AbortController();
  setTimeout(() => controller.abort(), 20);
  expect(await codeOf(inSlices(work(1000), { signal: controller.signal }))).toBe('cancelled');
});

test('work on an estate that moves begins anew with the clock held, and gives up when it keeps moving', async () => {
  const plant = new Plant(':memory:');
  plant.commit({
    effects: [{ kind: 'site', id: 'site_a', before: null, after: { id: 'site_a', name: 'Nordkai', purpose: '' } }],
  });
  let moves = 0;
  const held: boolean[] = [];
  const move = (times: number) => {
    if (moves >= times) return;
    moves += 1;
    held.push(plant.isHeld);
    const site = plant.estate.table('site').get('site_a')!;
    plant.commit({ effects: [changed('site', site, { purpose: `${moves}` })] });
  };
  const timer = setInterval(() => move(1), 5);
  expect(await ofOneMoment(plant, () => work(20))).toBe(20);
  clearInterval(timer);
  expect([moves, held, plant.isHeld]).toEqual([1, [false], false]);
  const always = setInterval(() => move(1000), 5);
  expect(await codeOf(ofOneMoment(plant, () => work(20)))).toBe('estate-moving');
  clearInterval(always);
  expect(held.slice(-2)).toEqual([true, true]);
  expect(plant.isHeld).toBe(false);
  plant.close();
});
