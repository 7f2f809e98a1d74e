import { golden } from '../../../torture/golden';

test('forms and plans of this room say what they said', () =>
  expect(
    golden(
      'port.configure',
      'controller.fail-over',
      'controller.give-back',
      'host.create',
      'host.configure',
      'interface.configure',
      'host.login',
      'host.logout',
      'host.delete',
      'mapping.create',
      'mapping.configure',
      'mapping.delete',
      'host.rescan',
      'host-device.format',
      'host-device.mount',
      'host-device.unmount',
      'host-device.grow',
      'host-device.shrink',
      'host-device.configure',
      'host-device.remove',
      'host.restart',
    ),
  ).toMatchSnapshot());
