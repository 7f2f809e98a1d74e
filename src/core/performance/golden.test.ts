import { protectedDemo } from '../../../demo/protection';
import { goldenOn } from '../../../torture/golden';
import { operationsByRoom } from '../change/operations';

test('forms and plans of this room say what they said', () =>
  expect(
    goldenOn(
      protectedDemo(),
      operationsByRoom.performance.map(({ kind }) => kind),
    ),
  ).toMatchSnapshot());
