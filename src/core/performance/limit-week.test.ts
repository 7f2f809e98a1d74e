import { stage } from '../../../demo/protected';
import { named } from '../../../demo/workbench';
import { limitWeek } from './limit-week';
import { loadModel } from './model';

const array = 'lintel-1';
const busy = () =>
  stage(
    { do: 'volume.activity', array, volumes: ['tickets-1'], reads: 8000, writes: 800, burst: 1, week: 'office' },
    {
      do: 'volume.activity',
      array,
      volumes: ['tickets-2'],
      kind: 'database',
      reads: 500,
      writes: 50,
      burst: 1,
      week: 'even',
    },
  );

test('a limit holds back in the hours in which more is asked, and what is shared is quieter by just that', () => {
  const at = busy();
  const model = loadModel(at.estate);
  const index = model.volumes.findIndex(({ id }) => id === named(at.estate, 'volume', 'tickets-1').id);
  const loose = limitWeek(model, index, 1e9);
  expect(Math.max(...loose.held)).toBe(0);
  expect(loose.held).toHaveLength(168);
  const week = limitWeek(model, index, 4000);
  const [noon, night] = [2 * 24 + 12, 2 * 24 + 3];
  expect(week.held[noon]!).toBeGreaterThan(0.3);
  expect(week.held[night]!).toBe(0);
  const [free, bound] = [loose.shared!, week.shared!];
  expect(bound.name).toBe(free.name);
  expect(free.after).toEqual(free.before);
  expect(bound.after[noon]!).toBeLessThan(bound.before[noon]!);
  expect(bound.after[night]!).toBe(bound.before[night]!);
});

test('whoever shares nothing has nobody to spare', () => {
  const at = stage({ do: 'volume.activity', array, volumes: ['tickets-1'], reads: 100, writes: 1 });
  const model = loadModel(at.estate);
  expect(limitWeek({ ...model, volumes: [model.volumes[0]!] }, 0, 10).shared).toBeNull();
});
