import type { MissingReason } from '../attach/sessions';
import type { NextStep } from '../operation/operation';
import type { HopName } from './hop';
import {
  allowMoreSessions,
  enterSecret,
  joinInZone,
  letConnect,
  letIn,
  logIn,
  makeDiscoverable,
  putOnRecord,
  setDigests,
  setUpInterface,
  setUpPort,
  switchTargetOn,
  type Broken,
  type Mend,
} from './mends';

/** Why a pair of ports does not meet: at which hop it breaks, and what mends it, in words and as an operation where one does. */
export interface Reason {
  hop: HopName;
  advice: string;
  mend?: Mend;
}

export const reasons: Readonly<Record<MissingReason, Reason>> = {
  'controller-down': { hop: 'Array port', advice: 'Bring the controller up.' },
  'array-port-down': { hop: 'Array port', advice: 'Bring the port up, or replace its module.' },
  'portal-down': { hop: 'Array port', advice: 'Bring the port up.' },
  'port-role-off': { hop: 'Array port', advice: 'Give the port that role.', mend: setUpPort },
  'target-disabled': { hop: 'Array port', advice: 'Switch the target on.', mend: switchTargetOn },
  'portal-without-address': { hop: 'Array port', advice: 'Give the port an address.', mend: setUpPort },
  'interface-down': { hop: 'Link', advice: 'Bring the interface up.' },
  'interface-without-address': { hop: 'Link', advice: 'Give it an address.' },
  'no-active-uplink': { hop: 'Link', advice: 'Set one uplink active.', mend: setUpInterface() },
  'many-active-uplinks': { hop: 'Link', advice: 'Leave one uplink active.', mend: setUpInterface() },
  'initiator-not-logged-in': { hop: 'Link', advice: 'Bring the interface up, at a speed that its switch shares.' },
  'target-not-logged-in': { hop: 'Link', advice: 'Bring the port up, at a speed that its switch shares.' },
  'switch-down': { hop: 'Link', advice: 'Bring the switch up.' },
  'no-isl-route': { hop: 'Link', advice: 'Bring a link between the switches up.' },
  'network-down': { hop: 'Link', advice: 'Bring the network up.' },
  'line-down': { hop: 'Link', advice: 'Bring the link between the sites up, or let another carry the network, too.' },
  'not-zoned': { hop: 'Zone or network', advice: 'Join the two in a zone and activate it.', mend: joinInZone },
  'no-route': { hop: 'Zone or network', advice: 'Give both ends an address in one subnet, or a route.' },
  'address-family-differs': {
    hop: 'Zone or network',
    advice: 'Give both ends an address of one family.',
    mend: setUpInterface('addresses'),
  },
  'vlan-mismatch': { hop: 'Zone or network', advice: 'Set one VLAN at both.', mend: setUpInterface() },
  'prefix-mismatch': { hop: 'Zone or network', advice: 'Correct the prefix.', mend: setUpInterface() },
  'mtu-black-hole': {
    hop: 'Zone or network',
    advice: 'Raise the network’s MTU, or lower it at the ends.',
    mend: setUpInterface(),
  },
  'initiator-unknown': { hop: 'Initiator', advice: 'Put the name it presents on record.', mend: putOnRecord },
  'no-initiator': { hop: 'Initiator', advice: 'Register its initiator.', mend: putOnRecord },
  'not-discovered': {
    hop: 'Discovery',
    advice: 'Enable a set that holds both, or add them to one.',
    mend: makeDiscoverable,
  },
  'not-logged-in': { hop: 'Discovery', advice: 'Log in.', mend: logIn },
  'access-none': { hop: 'Login', advice: 'Grant it access.', mend: letIn },
  'chap-failed': { hop: 'Login', advice: 'Enter the secret again, the same on both sides.', mend: enterSecret },
  'chap-mutual-failed': { hop: 'Login', advice: 'Enter the array’s secret at the host again.', mend: enterSecret },
  'auth-server-down': { hop: 'Login', advice: 'Bring the authentication server up.' },
  'digest-none-common': { hop: 'Login', advice: 'Let both sides take one digest.', mend: setDigests },
  'nqn-not-allowed': { hop: 'Login', advice: 'Put its exact NQN on the list.', mend: letConnect },
  'session-limit': { hop: 'Login', advice: 'Allow more sessions, or log others out.', mend: allowMoreSessions },
  'session-reinstated': {
    hop: 'Login',
    advice: 'Give each interface an ISID of its own.',
    mend: setUpInterface('isid'),
  },
  'controller-limit': { hop: 'Login', advice: 'Allow more controllers, or disconnect others.' },
};

/** What lets a pair of ports meet, as an operation, where one does. */
export const mendFor = (broken: Broken): NextStep | null => reasons[broken.gap.reason].mend?.(broken) ?? null;
