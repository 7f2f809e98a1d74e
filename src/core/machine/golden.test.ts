import { carryOut } from '../../../demo/workbench';
import { deckStage } from '../../../demo/stretched';
import { goldenOn } from '../../../torture/golden';
import { operationsByRoom } from '../change/operations';

test('forms and plans of this room say what they said', () => {
  const { estate } = deckStage({ do: 'allotment.create', name: 'Virtual deck team', size: '300 GiB' });
  carryOut(estate, [
    {
      do: 'machine.make',
      name: 'deck-web',
      cluster: 'deck',
      allotment: 'Virtual deck team',
      array: 'lintel-1',
      pool: 'quay',
      disks: ['40 GiB'],
    },
  ]);
  const kinds = operationsByRoom.machine.map(({ kind }) => kind);
  expect(goldenOn(estate, [...kinds, 'machine.make', 'machine.copy', 'machine.go-back'])).toMatchSnapshot();
});
