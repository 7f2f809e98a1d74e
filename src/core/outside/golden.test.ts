import { carryOut } from '../../../demo/workbench';
import { goldenOn } from '../../../torture/golden';
import { operationsByRoom } from '../change/operations';
import { oldArray } from '../../../demo/old-array';

test('forms and plans of this room say what they said', () => {
  const estate = oldArray();
  carryOut(estate, [{ do: 'outside.rescan', array: 'lintel-1' }], 'found');
  carryOut(estate, [{ do: 'outside.inspect', array: 'lintel-1', luns: ['corbel-9:0', 'corbel-9:1'] }], 'inspected');
  const kinds = [...operationsByRoom.outside.map(({ kind }) => kind), 'storage.bring-in', 'storage.blank-room'];
  expect(goldenOn(estate, kinds)).toMatchSnapshot();
});
