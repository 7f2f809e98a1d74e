import { codesOf, estateAfter, mounted, refusalsOf } from '../../../demo/workbench';
import { planChange } from '../change/plan';
import { basis } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import { countAllPaths } from './paths';

const over = (controller: string) => ({ do: 'controller.fail-over', array: 'lintel-1', controller });
const back = (controller: string) => ({ do: 'controller.give-back', array: 'lintel-1', controller });

test('the partner serves the volumes meanwhile, and they go back', () => {
  const estate = estateAfter(mounted);
  const { overlay, steps, refusals } = planChange(estate, [over('a')], basis);
  expect(refusals).toEqual([]);
  expect(steps[0]!.title).toMatch(/Take controller a down; b serves its \d volumes?/);
  expect(countAllPaths(overlay)).toMatchObject({ usable: 4, expected: 8 });
  const again = planChange(overlay, [back('a')], basis);
  expect(again.refusals).toEqual([]);
  expect(countAllPaths(again.overlay)).toMatchObject({ usable: 8, expected: 8 });
});

test('refused: one that is down already, up already, or has no partner; and where a mounted volume would lose its last path', () => {
  const estate = estateAfter(mounted);
  expect(codesOf(estate, back('a'))).toEqual(['controller-up']);
  expect(codesOf(estate, over('a'), over('a'))).toEqual(['controller-down']);
  expect(codesOf(estate, over('a'), over('b'))).toEqual(['no-partner', 'in-use']);
  for (const port of estate.table('port').values())
    if (port.name.startsWith('b')) estate.apply([changed('port', port, { state: 'down' })]);
  expect(refusalsOf(estate, over('a'))[0]).toMatchObject({ code: 'in-use', field: 'controller' });
});
