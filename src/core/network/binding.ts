import type { HostInterface } from '../estate/entities';

export type BindingFailure = 'no-active-uplink' | 'many-active-uplinks';

export const bindingWords: Record<BindingFailure, string> = {
  'no-active-uplink': 'it is bound and has no active uplink: set one active',
  'many-active-uplinks': 'it is bound and has several active uplinks: leave one active',
};

/** Uplinks of an interface; one that names none is its own. */
export const activeUplinks = (row: HostInterface): string[] =>
  row.uplinks.length === 0
    ? [row.name]
    : row.uplinks.filter((uplink) => uplink.use === 'active').map((uplink) => uplink.name);

/** Why sessions cannot leave by a bound interface: it takes exactly one active uplink. */
export function bindingFailure(row: HostInterface): BindingFailure | null {
  const count = activeUplinks(row).length;
  if (count === 1) return null;
  return count === 0 ? 'no-active-uplink' : 'many-active-uplinks';
}

export interface BindingWarning {
  kind: 'standby-uplink' | 'shared-uplink';
  interface: string;
  says: string;
}

/** What is fit to be bound but unwise: standby uplinks, and two bound interfaces on one uplink. */
export function bindingWarnings(interfaces: readonly HostInterface[]): BindingWarning[] {
  const bound = interfaces.filter((row) => row.bound);
  const found: BindingWarning[] = [];
  const users = new Map<string, string>();
  for (const row of bound) {
    if (row.uplinks.some((uplink) => uplink.use === 'standby'))
      found.push({
        kind: 'standby-uplink',
        interface: row.id,
        says: `${row.name} has a standby uplink, which bound interfaces do not use.`,
      });
    for (const uplink of activeUplinks(row)) {
      const other = users.get(uplink);
      if (other)
        found.push({
          kind: 'shared-uplink',
          interface: row.id,
          says: `${other} and ${row.name} share uplink ${uplink}.`,
        });
      users.set(uplink, row.name);
    }
  }
  return found;
}
