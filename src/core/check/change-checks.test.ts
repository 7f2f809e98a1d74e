import { stage } from '../../../demo/protected';
import { checkContext, findings } from './engine';

test('change-stuck appears with its steps, and goes', () => {
  const { estate, now } = stage();
  const of = (stuck: Parameters<typeof checkContext>[4]) =>
    findings(estate, checkContext(estate, now, undefined, undefined, stuck)).filter(
      ({ check }) => check === 'change-stuck',
    );
  expect(of([])).toEqual([]);
  const [found] = of([{ id: 'chg_1', title: 'By night', needsUndo: ['Make pool quay', 'Carve rg-1'] }]);
  expect(found).toMatchObject({
    severity: 'error',
    says: 'By night needs hands: not taken back are Make pool quay, Carve rg-1.',
    mend: { do: 'change', params: { id: 'chg_1' } },
  });
});
