'use client';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { NetworkLine, TargetView } from '@/core/trace/target-view';
import { api } from '../api/client';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { Column } from '../table/columns';
import { DataTable } from '../table/data-table';
import { Subsystem } from './subsystem-part';
import { Target } from './target-parts';

/** The IP side: targets with their portals and guests, subsystems with their namespaces, networks, and the name service. */
export function NetworkParts() {
  const { data, error } = useQuery({ queryKey: ['targets'], queryFn: api.targets });
  if (error) return <p className="refusal mt-2">The networks were asked for. {error.message}</p>;
  if (!data) return null;
  return (
    <>
      {data.targets.map((target) => (
        <Target key={`${target.array} ${target.name}`} target={target} />
      ))}
      {data.subsystems.map((subsystem) => (
        <Subsystem key={`${subsystem.array} ${subsystem.name}`} subsystem={subsystem} />
      ))}
      <Networks networks={data.networks} />
      <NameService view={data} />
    </>
  );
}

const networkColumns: Column<NetworkLine>[] = [
  stateColumn(({ up }) => (up ? 'stands' : 'broken')),
  { head: 'Network', kind: 'name', value: ({ name }) => name },
  { head: 'Subnet', kind: 'mono', value: ({ cidr }) => cidr },
  { head: 'Site', value: ({ site }) => site },
  { head: 'VLAN', kind: 'number', value: ({ vlan }) => vlan },
  { head: 'MTU', kind: 'number', value: ({ mtu }) => mtu },
  {
    head: 'Portals',
    value: ({ portals }) => portals.join(', ') || 'none',
    className: ({ portals }) => (portals.length === 0 ? 'text-ink2' : ''),
  },
  {
    head: 'Host interfaces',
    value: ({ interfaces }) => interfaces.map(({ host, name }) => `${host} ${name}`).join(', ') || 'none',
    cell: (network) =>
      network.interfaces.length === 0 ? (
        <span className="text-ink2">none</span>
      ) : (
        network.interfaces.map((row, k) => (
          <span key={`${row.host} ${row.name}`}>
            {k > 0 && ', '}
            {row.host} {row.name}
            {row.mtu !== network.mtu && <span className="text-red"> MTU {row.mtu}</span>}
            {!row.up && <span className="text-red"> down</span>}
          </span>
        ))
      ),
  },
];

function Networks({ networks }: { networks: readonly NetworkLine[] }) {
  return (
    <section aria-label="Networks" className="pt-4">
      <h2 className="caps border-b border-ink pb-1">Networks</h2>
      <DataTable label="Networks" rows={networks} keyOf={({ name }) => name} columns={networkColumns} />
    </section>
  );
}

/** What name servers hold: who is registered with which portals, who is in no domain, and who is told of whom. */
const nodeColumns: Column<TargetView['nodes'][number]>[] = [
  { head: 'Registered', kind: 'mono', className: 'text-[11px] [overflow-wrap:anywhere]', value: ({ name }) => name },
  {
    head: 'Entity',
    width: 'whitespace-nowrap',
    value: ({ entity, role }) => `${entity} ${role}`,
    cell: ({ entity, role }) => (
      <>
        <span className="name">{entity}</span> <span className="text-ink2">{role}</span>
      </>
    ),
  },
  { head: 'Portals', kind: 'mono', className: 'text-[11px]', value: ({ portals }) => portals.join(', ') || 'none' },
  {
    head: 'Domains',
    value: ({ domains, control }) => `${domains.join(', ') || 'in no domain'}${control ? ' control node' : ''}`,
    cell: ({ domains, control }) => (
      <>
        {domains.join(', ') || <span className="text-red">in no domain</span>}
        {control && <span className="block text-ink2">control node</span>}
      </>
    ),
  },
  {
    head: 'Is told of',
    value: ({ role, discovers }) => (role === 'target' ? '' : discovers.join(', ') || 'no target'),
    className: ({ role, discovers }) => (role !== 'target' && discovers.length === 0 ? 'text-red' : ''),
  },
];

function NameService({ view }: { view: TargetView }) {
  const { open } = usePlace();
  const columns = useMemo(() => domainColumns((name) => open('discovery-domain.configure', { name })), [open]);
  return (
    <section aria-label="Name service" className="pt-4">
      <div className="flex items-baseline gap-3 border-b border-ink pb-1">
        <h2 className="caps">Name service (iSNS)</h2>
        <span className="text-ink2">
          {view.nameServers.length === 0
            ? 'no name server yet; hosts ask portals'
            : view.nameServers
                .map(
                  (one) =>
                    `${one.name} at ${one.ip}${one.up ? '' : ', down'}${one.defaultDomain ? ', shows those in no domain to each other' : ''}`,
                )
                .join('; ')}
        </span>
        <span className="flex-1" />
        <button type="button" className="verb" onClick={() => open('name-server.configure')}>
          Set up a name server
        </button>
        <button type="button" className="verb" onClick={() => open('discovery-domain.create')}>
          Make a domain
        </button>
        <button type="button" className="verb" onClick={() => open('domain-set.create')}>
          Make a domain set
        </button>
      </div>
      {view.nodes.length > 0 && (
        <DataTable label="Registered nodes" rows={view.nodes} keyOf={({ name }) => name} columns={nodeColumns} />
      )}
      {view.domains.length > 0 && (
        <DataTable label="Discovery domains" rows={view.domains} keyOf={({ name }) => name} columns={columns} />
      )}
    </section>
  );
}

const domainColumns = (onOpen: (name: string) => void): Column<TargetView['domains'][number]>[] => [
  {
    head: 'Domain',
    kind: 'name',
    value: ({ name }) => name,
    cell: ({ name }) => (
      <button type="button" className="verb" onClick={() => onOpen(name)}>
        {name}
      </button>
    ),
  },
  {
    head: 'Members',
    value: ({ members }) => members.map(({ name, owner }) => `${name} ${owner}`).join(', '),
    cell: ({ members }) =>
      members.map(({ name, owner }) => (
        <span key={name} className="block">
          <span className="mono text-[11px]">{name}</span>{' '}
          <span className={owner ? 'text-ink2' : 'text-red'}>{owner || 'nobody’s'}</span>
        </span>
      )),
  },
  {
    head: 'Sets',
    value: ({ sets }) =>
      sets.map(({ name, enabled }) => `${name}, ${enabled ? 'enabled' : 'not enabled'}`).join('; ') || 'in no set',
    cell: ({ sets }) => (
      <>
        {sets.length === 0 && <span className="text-red">in no set</span>}
        {sets.map(({ name, enabled }) => (
          <span key={name} className="block">
            {name}, {enabled ? 'enabled' : <span className="text-red">not enabled</span>}
          </span>
        ))}
      </>
    ),
  },
];
