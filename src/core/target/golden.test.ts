import { golden } from '../../../torture/golden';

test('forms and plans of this room say what they said', () =>
  expect(
    golden(
      'target.configure',
      'initiator.configure',
      'auth-server.configure',
      'name-server.configure',
      'discovery-domain.create',
      'discovery-domain.configure',
      'discovery-domain.delete',
      'domain-set.create',
      'domain-set.configure',
      'domain-set.delete',
      'subsystem.create',
      'subsystem.configure',
      'subsystem.delete',
    ),
  ).toMatchSnapshot());
