import { golden } from '../../../../torture/golden';

test('forms and plans of this room say what they said', () =>
  expect(golden('storage.give', 'storage.take-back', 'cluster.rescan')).toMatchSnapshot());
