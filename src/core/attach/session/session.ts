import type { Transport } from '../../estate/entities';
import type { LoginReason, LoginStatus } from '../../iscsi/login';
import type { BindingFailure } from '../../network/binding';
import type { ReachFailure } from '../../network/reach';
import type { ConnectStatus } from '../../nvme/connect';

/** Why an initiator port and a target port that should meet do not. */
export type MissingReason =
  | ReachFailure
  | BindingFailure
  | LoginReason
  | 'controller-down'
  | 'port-role-off'
  | 'nqn-not-allowed'
  | 'controller-limit'
  | 'session-reinstated'
  | 'initiator-not-logged-in'
  | 'target-not-logged-in'
  | 'array-port-down'
  | 'switch-down'
  | 'no-isl-route'
  | 'not-zoned';

/** An initiator port of the host that is logged in at a port of the array. */
export interface Session {
  transport: Transport;
  interface: string;
  port: string;
  controller: string;
  /** The network, or the fabric, between them. */
  network: string | null;
  /** The iSCSI target, where it is not its array's main one: what mappings name that go by it. */
  target: string | null;
  /** Of an NVMe controller. */
  subsystem: string | null;
}

/** A pair that should meet and does not. */
export interface MissingSession extends Session {
  reason: MissingReason;
  status?: LoginStatus | ConnectStatus;
  message: string;
}

export interface Sessions {
  up: Session[];
  missing: MissingSession[];
  /**
   * Pairs that nothing was made to let meet: Fibre Channel ports without a common zone, IP ends without a common subnet or route. They are missed
   * only where a mapping has nothing better ({@link leastWanted}), and worked out when they are asked for.
   */
  readonly apart: readonly MissingSession[];
  /** Fibre Channel interfaces that have such pairs. */
  readonly loose: readonly string[];
}

/** Sessions while they are gathered. */
export class Gathered implements Sessions {
  readonly up: Session[] = [];
  readonly missing: MissingSession[] = [];
  readonly loose: string[] = [];
  readonly later: (() => readonly MissingSession[])[] = [];
  private worked: readonly MissingSession[] | null = null;
  get apart(): readonly MissingSession[] {
    return (this.worked ??= this.later.flatMap((work) => work()));
  }
}

/** One way to each controller is the least that is wanted: of each interface's pairs the first to each controller, by the order they come in. */
export function leastWanted(apart: readonly MissingSession[]): MissingSession[] {
  const seen = new Set<string>();
  return apart.filter(({ interface: from, controller }) => {
    const key = `${from} ${controller}`;
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
}

/** Why a host is not let in. */
export interface Refused {
  reason: MissingReason;
  message: string;
  status?: LoginStatus | ConnectStatus;
}
