import type { ArrayRow, Host, Mapping } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { controllerOf, interfaceOf, portOf, targetOf } from '../estate/relations';
import { initiatorText } from '../attach/initiators';
import type { Path, Paths } from '../attach/paths';
import type { MissingSession } from '../attach/sessions';
import { grantOf, mainTarget, targetText } from '../iscsi/target';
import { formatAddress } from '../network/address';
import { nextStep as step } from '../operation/operation';
import { fail, pass, portHopNames, unreached, warn, type HopFound } from './hop';
import { slipWords, waitingWords } from './mends';
import { networkName } from './pairs';
import { mendFor, reasons } from './reasons';
import { stopped } from '../units/counted';

const initiatorNames = (view: EstateView, host: Host): string =>
  view
    .table('initiator')
    .by('host', host.id)
    .map((row) => initiatorText(row.name))
    .join(', ') || 'none';

/** What its hops say of a pair of ports, as far as it holds. */
function holdsOf(view: EstateView, host: Host, array: ArrayRow, end: Path | MissingSession): HopFound[] {
  const port = portOf(view, end);
  const from = interfaceOf(view, end);
  const network = networkName(view, end.network);
  const fc = end.transport === 'fc';
  return [
    pass(`${array.name} ${port.name}`, `Up, on controller ${controllerOf(view, port).name}.`),
    pass(
      `${host.name} ${from.name}`,
      fc
        ? `Logged in to fabric ${network} at ${view.table('switch').get(from.switch ?? '')?.name} port ${from.switchPort}.`
        : `${from.addresses.map(formatAddress).join(', ')} is up.`,
    ),
    pass(network, fc ? 'One active zone holds both ports.' : 'The two reach each other, and frames fit.'),
    pass(initiatorNames(view, host), 'It is on record for this host.'),
    pass(fc ? 'not applicable' : 'by the host', discoveryWords(host, fc)),
    pass(fc ? 'not applicable' : servedBy(view, array, end), loginWords(view, host, array, end)),
  ];
}

function discoveryWords(host: Host, fc: boolean): string {
  if (fc) return 'Fibre Channel asks the name server of the fabric.';
  return host.discovery === 'isns' ? 'The name server shows the target.' : 'The portal offers the target.';
}

function loginWords(view: EstateView, host: Host, array: ArrayRow, end: Path | MissingSession): string {
  if (end.transport === 'fc') return 'Fibre Channel ports log in by their names.';
  if (end.transport === 'nvme-tcp') return 'The subsystem lets its host NQN in.';
  return demands(view, host, array, end) === 'none' ? 'The target lets it in without CHAP.' : 'CHAP holds.';
}

/** What lets a host in over IP: the iSCSI target or the NVMe subsystem. */
function servedBy(view: EstateView, array: ArrayRow, end: { target: string | null }): string {
  const target = end.target === null ? undefined : targetOf(view, end);
  return target ? targetText(view, target) : array.name;
}

/** What the target of a session demanded of the host. */
function demands(view: EstateView, host: Host, array: ArrayRow, end: { target: string | null; interface: string }) {
  const target = end.target === null ? mainTarget(view, array.id) : targetOf(view, end);
  const from = interfaceOf(view, end);
  return target ? grantOf(target, { name: host.presents, host, ...(from ? { from } : {}) }).auth : 'none';
}

/** Nothing was plugged in or given an address that could ever meet: what of the array's side stands is looked up all the same. */
function nothingInCommon(view: EstateView, host: Host, array: ArrayRow, mapping: Mapping): HopFound[] {
  const ports = view
    .table('port')
    .by('array', array.id)
    .filter((port) => mapping.ports === null || mapping.ports.includes(port.id));
  const live = ports.filter((port) => port.state === 'up' && controllerOf(view, port).state === 'up');
  const said = `${live.length} of ${ports.length} ports that show it are up.`;
  return [
    live.length === 0
      ? fail(array.name, 'array-port-down', said, 'Bring its ports and controllers back.')
      : pass(array.name, said),
    fail(
      host.name,
      'different-fabric',
      `${host.name} shares neither a subnet nor a fabric with ${array.name}.`,
      'Plug it in, or give it an address there.',
      step('Set up an interface', 'interface.configure', { host: host.name }),
    ),
    ...portHopNames.slice(2).map(unreached),
  ];
}

/** The hops of a pair of ports: all pass where a pair of ports meets; else the pair that gets furthest tells where it breaks. */
export function portHops(
  view: EstateView,
  host: Host,
  array: ArrayRow,
  mapping: Mapping,
  paths: Paths,
  good: Path | undefined,
  gap: MissingSession | undefined,
): HopFound[] {
  if (!gap) return good ? holdsOf(view, host, array, good) : nothingInCommon(view, host, array, mapping);
  const reason = reasons[gap.reason];
  const at = portHopNames.indexOf(reason.hop);
  const broken = holdsOf(view, host, array, gap);
  if (at === 1) broken[1]!.object = linkObject(view, host, array, gap);
  const mend = [reason.advice, mendFor({ view, host, array, gap })] as const;
  const sentence = stopped(gap.message) + waitingWords(view, gap) + slipWords(view, gap);
  if (good) {
    const holds = holdsOf(view, host, array, good);
    const short = paths.expected - paths.usable;
    if (short > 0)
      holds[at] = warn(
        broken[at]!.object,
        gap.reason,
        `${short} of ${paths.expected} paths are missing: ${sentence}`,
        ...mend,
      );
    return holds;
  }
  return [
    ...broken.slice(0, at),
    fail(broken[at]!.object, gap.reason, sentence, ...mend),
    ...broken.slice(at + 1).map(unreached),
  ];
}

/** What of a link is broken: an end of it, or what lies between. */
function linkObject(view: EstateView, host: Host, array: ArrayRow, gap: MissingSession): string {
  if (gap.reason === 'target-not-logged-in') return `${array.name} ${portOf(view, gap).name}`;
  if (['switch-down', 'no-isl-route', 'network-down', 'line-down'].includes(gap.reason))
    return networkName(view, gap.network);
  return `${host.name} ${interfaceOf(view, gap).name}`;
}
