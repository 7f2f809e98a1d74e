import type { Host } from '../estate/entities';
import type { EstateView } from '../estate/estate';

/** Whether a host was told to log in at an array, or at one of its targets, whatever it would do by itself. */
export const wasTold = (view: EstateView, host: Host, array: string, target?: string): boolean =>
  view
    .table('login')
    .by('host', host.id)
    .some(
      (login) => login.array === array && (target === undefined || login.target === null || login.target === target),
    );
