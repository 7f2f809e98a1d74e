import { golden } from '../../../torture/golden';

test('forms and plans of this room say what they said', () =>
  expect(
    golden(
      'drive.assign-spare',
      'drive.release-spare',
      'drive.locate',
      'drive.replace',
      'drive.copy-to-spare',
      'drive.erase',
      'drive.clear-label',
    ),
  ).toMatchSnapshot());
