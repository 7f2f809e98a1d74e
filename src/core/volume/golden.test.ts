import { golden } from '../../../torture/golden';

test('forms and plans of this room say what they said', () =>
  expect(
    golden(
      'workload.create',
      'workload.delete',
      'volume.create',
      'volume.resize',
      'volume.convert',
      'volume.reclaim',
      'volume.configure',
      'volume.delete',
      'volume.restore',
      'volume.purge',
    ),
  ).toMatchSnapshot());
