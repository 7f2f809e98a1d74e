import type { ArrayRow, Host, Transport } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { networksOf, reach } from '../network/reach';

/** Fabrics in which both a port of the host and a port of the array are plugged in. */
export function sharedFabrics(view: EstateView, host: Host, array: ArrayRow): string[] {
  const fabricOf = (id: string | null) => (id ? view.table('switch').get(id)?.fabric : undefined);
  const own = new Set(
    view
      .table('interface')
      .by('host', host.id)
      .flatMap((row) => (row.kind === 'fc' ? (fabricOf(row.switch) ?? []) : [])),
  );
  const theirs = view
    .table('port')
    .by('array', array.id)
    .flatMap((row) => (row.role === 'fc' ? (fabricOf(row.switch) ?? []) : []));
  return [...new Set(theirs.filter((fabric) => own.has(fabric)))].sort((a, b) =>
    view.table('fabric').get(a)!.name < view.table('fabric').get(b)!.name ? -1 : 1,
  );
}

/** Transports by which a host could reach an array once it is let in: both have ports for it, on one fabric or network. */
export function waysTo(view: EstateView, host: Host, array: ArrayRow): Transport[] {
  const found: Transport[] = sharedFabrics(view, host, array).length > 0 ? ['fc'] : [];
  const networks = networksOf(view);
  const ethernet = view
    .table('interface')
    .by('host', host.id)
    .filter((row) => row.kind === 'ethernet');
  const ports = view.table('port').by('array', array.id);
  for (const [role, name] of [
    ['nvme-tcp', host.nqn],
    ['iscsi', host.presents],
  ] as const)
    if (
      name !== null &&
      ports.some((port) => port.role === role && ethernet.some((row) => reach(networks, row, port).ok))
    )
      found.push(role);
  return found;
}
