import { golden } from '../../../torture/golden';
import { operationsByRoom } from '../change/operations';

test('forms and plans of this room say what they said', () =>
  expect(golden(...operationsByRoom.service.map(({ kind }) => kind))).toMatchSnapshot());
