import { golden } from '../../../torture/golden';

test('forms and plans of this room say what they said', () =>
  expect(
    golden(
      'fabric.configure',
      'alias.create',
      'alias.configure',
      'alias.delete',
      'zone.create',
      'zone.configure',
      'zone.delete',
      'zone-set.create',
      'zone-set.configure',
      'zone-set.delete',
      'zone-set.activate',
      'zoning.join',
      'zoning.part',
    ),
  ).toMatchSnapshot());
