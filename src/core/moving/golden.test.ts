import { golden } from '../../../torture/golden';
import { operationsByRoom } from '../change/operations';

test('forms and plans of this room say what they said', () =>
  expect(golden(...operationsByRoom.moving.map(({ kind }) => kind))).toMatchSnapshot());
