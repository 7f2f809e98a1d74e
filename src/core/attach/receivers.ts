import type { Cluster, Host } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { byName, draftText } from '../operation/draft';
import type { Inquiry } from '../operation/inquiry';
import { lookUp } from '../operation/inquiry';
import type { Choice, Draft } from '../operation/operation';
import { subjectOf } from '../operation/refusal';

/** Who something is for: one host, or all members of a cluster. */
export interface Receivers {
  hosts: Host[];
  cluster: Cluster | null;
  name: string;
}

export function askReceivers(
  view: EstateView,
  asks: Inquiry,
  p: { host?: string | undefined; cluster?: string | undefined },
): Receivers | null {
  if (!p.cluster) {
    const host = asks.find('host', p.host ?? '', 'host');
    return host ? { hosts: [host], cluster: null, name: host.name } : null;
  }
  const cluster = asks.find('cluster', p.cluster, 'cluster');
  if (!cluster) return null;
  const hosts = [...view.table('host').by('cluster', cluster.id)].sort(byName);
  if (hosts.length === 0)
    asks.refuse({
      code: 'cluster-empty',
      field: 'cluster',
      subject: subjectOf('cluster', cluster),
      message: `${cluster.name} has no member.`,
      mend: 'Put a host into it first.',
    });
  return hosts.length === 0 ? null : { hosts, cluster, name: cluster.name };
}

export function draftReceivers(view: EstateView, draft: Draft): Receivers | null {
  const cluster = lookUp(view, 'cluster', draftText(draft, 'cluster'));
  if (cluster)
    return { hosts: [...view.table('host').by('cluster', cluster.id)].sort(byName), cluster, name: cluster.name };
  const host = lookUp(view, 'host', draftText(draft, 'host'));
  return host ? { hosts: [host], cluster: null, name: host.name } : null;
}

/** The part of an operation that names them. */
export const naming = (to: Receivers): { cluster: string } | { host: string } =>
  to.cluster ? { cluster: to.cluster.name } : { host: to.hosts[0]!.name };

export const clusterChoices = (view: EstateView): Choice[] =>
  [...view.table('cluster').values()].sort(byName).map((row) => ({ value: row.name, label: row.name }));
