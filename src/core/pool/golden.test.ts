import { golden } from '../../../torture/golden';

test('forms and plans of this room say what they said', () =>
  expect(
    golden(
      'pool.create',
      'pool.configure',
      'pool.extend',
      'pool.remove-group',
      'pool.rebalance',
      'pool.reduce',
      'pool.delete',
    ),
  ).toMatchSnapshot());
