import type { Host } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { volumeOf } from '../estate/relations';
import { mainTarget } from '../iscsi/target';
import { connectRefusal } from '../nvme/connect';
import type { PathFinder } from './paths';
import type { Sessions } from './sessions';
import { wasTold } from './told';

/** Who let a host in at an array: it was told to log in there, or logs in by itself where something is mapped to it. */
export type LetIn = 'told' | 'mapped';

export interface Connected extends Sessions {
  /** Null where it has no business there over IP, whatever would let it in. */
  by: LetIn | null;
  /** The same at one target, as mappings name it. */
  at: (target: string | null) => LetIn | null;
}

/** `target` is a target as mappings name it: null for the main one; left out, any way in over IP counts. */
export const letInBy = (view: EstateView, host: Host, array: string, target?: string | null): LetIn | null => {
  const asked = target === null ? (mainTarget(view, array)?.id ?? '') : target;
  if (wasTold(view, host, array, asked)) return 'told';
  const mapped = view
    .table('mapping')
    .by('host', host.id)
    .some(
      (mapping) =>
        volumeOf(view, mapping).array === array &&
        (target === undefined || (mapping.target === target && mapping.subsystem === null)),
    );
  return mapped && host.autoLogin ? 'mapped' : null;
};

/**
 * The sessions that a host has with an array, and those it asked for and lacks. {@link PathFinder.sessions} tells how the two would meet; over IP a
 * host logs in only where it was told to or something is mapped to it, and a subsystem it never asked for is not held against it.
 */
export function connected(view: EstateView, finder: PathFinder, host: Host, array: string): Connected {
  const by = letInBy(view, host, array);
  const sessions = finder.sessions(host.id, array);
  const asked = new Map<string, boolean>();
  const byTarget = new Map<string | null, LetIn | null>();
  const letInAt = (target: string | null): LetIn | null => {
    let known = byTarget.get(target);
    if (known === undefined) byTarget.set(target, (known = letInBy(view, host, array, target)));
    return known;
  };
  const asksFor = (subsystem: string): boolean => {
    let known = asked.get(subsystem);
    if (known === undefined) {
      const row = view.table('subsystem').get(subsystem)!;
      known =
        view
          .table('mapping')
          .by('host', host.id)
          .some((mapping) => mapping.subsystem === subsystem) ||
        (by === 'told' && connectRefusal(host, row) === null);
      asked.set(subsystem, known);
    }
    return known;
  };
  const wanted = (one: { transport: string; target: string | null; subsystem: string | null }): boolean =>
    one.transport === 'fc' || (one.subsystem === null ? letInAt(one.target) !== null : asksFor(one.subsystem));
  return {
    by,
    at: letInAt,
    up: sessions.up.filter(wanted),
    missing: sessions.missing.filter(wanted),
    loose: sessions.loose,
    get apart() {
      return sessions.apart;
    },
  };
}
