import { golden } from '../../../torture/golden';

test('forms and plans of this room say what they said', () =>
  expect(
    golden('raid-group.create', 'raid-group.expand', 'raid-group.configure', 'raid-group.scrub', 'raid-group.delete'),
  ).toMatchSnapshot());
