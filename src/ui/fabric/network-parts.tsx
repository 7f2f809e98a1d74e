'use client';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { Post } from '@/core/span/model';
import type { GuestLine, NetworkLine, SubsystemLine, TargetLine, TargetView } from '@/core/trace/target-view';
import { api } from '../api/client';
import { Tag } from '../look/marks';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { AnyColumn, Column } from '../table/columns';
import { DataTable } from '../table/data-table';
import { ISCSI_PORT } from '@/core/network/portal';

const auths = { none: 'no CHAP', 'one-way': 'CHAP one way', mutual: 'CHAP both ways' } as const;

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

function Target({ target }: { target: TargetLine }) {
  const { open } = usePlace();
  return (
    <section
      aria-label={target.main ? `Target of ${target.array}` : `Target ${target.name} of ${target.array}`}
      className="pt-3"
    >
      <div className="flex items-baseline gap-3 overflow-hidden border-b border-ink pb-1 whitespace-nowrap">
        <h2 className="flex items-center gap-2 font-[680]">
          {target.array}
          {target.main ? '' : ` target ${target.name}`} <Tag tag="IS" />
        </h2>
        <span className="mono text-[11px]">{target.iqn}</span>
        {!target.enabled && <span className="text-red">switched off</span>}
        <span className="text-ink2">
          {auths[target.auth]}
          {target.authServer ? `, asks ${target.authServer}` : ''}; header digest {target.headerDigest}, data digest{' '}
          {target.dataDigest}; {target.isns ? 'registers by iSNS' : 'not registered by iSNS'}
        </span>
        <span className="flex-1" />
        <button
          type="button"
          className="verb"
          onClick={() => open('target.configure', { array: target.array, name: target.name })}
        >
          Change
          <span className="sr-only">
            {' '}
            target {target.name} of {target.array}
          </span>
        </button>
        {target.main ? (
          <button type="button" className="verb" onClick={() => open('target.create', { array: target.array })}>
            Another target<span className="sr-only"> of {target.array}</span>
          </button>
        ) : (
          <button
            type="button"
            className="verb"
            onClick={() => open('mapping.create', { array: target.array, target: target.name })}
          >
            Map volumes<span className="sr-only"> by {target.name}</span>
          </button>
        )}
      </div>
      <LetIn target={target} />
      <div className="grid grid-cols-[repeat(auto-fit,minmax(500px,1fr))] gap-x-6">
        <DataTable
          label={`Portals of ${titleOf(target)}`}
          rows={target.portals}
          keyOf={({ address }) => address}
          columns={portalColumns}
          className="[&_td]:align-middle!"
        />
        <Guests target={target} />
      </div>
      {target.connected.length > 0 && <Connected target={target} />}
    </section>
  );
}

/** Who may log in, beyond what stands at each initiator. */
function LetIn({ target }: { target: TargetLine }) {
  const said = [
    target.anyone ? 'lets anyone in' : '',
    target.usual === 'read-write'
      ? ''
      : `whom it does not name may ${target.usual === 'none' ? 'do nothing' : 'only read'}`,
    target.exceptions.length > 0 ? `except ${target.exceptions.join(', ')}` : '',
    target.accounts.length > 0 ? `accounts of its own: ${target.accounts.join(', ')}` : '',
    target.sessionLimit === null ? '' : `${target.connected.length} of at most ${target.sessionLimit} sessions`,
    target.volumes.length > 0 ? `shows ${target.volumes.join(', ')}` : target.main ? '' : 'shows no volume yet',
  ].filter(Boolean);
  return said.length === 0 ? null : <p className="pt-1 [overflow-wrap:anywhere]">{said.join('; ')}</p>;
}

/** Sessions that stand, one a line, folded away until they are asked for. */
function Connected({ target }: { target: TargetLine }) {
  const count = target.connected.length;
  return (
    <details className="pt-1">
      <summary className="verb w-fit cursor-pointer">
        {count} {count === 1 ? 'session' : 'sessions'} of {target.array}
        {target.main ? '' : ` target ${target.name}`}
      </summary>
      <DataTable
        label={`Sessions at ${titleOf(target)}`}
        rows={target.connected}
        keyOf={({ host, from, to }) => `${host} ${from} ${to}`}
        columns={sessionColumns}
      />
    </details>
  );
}

const titleOf = ({ array, main, name }: TargetLine): string => (main ? array : `${array} target ${name}`);

const portalColumns: Column<TargetLine['portals'][number]>[] = [
  stateColumn(({ up }) => (up ? 'stands' : 'broken')),
  { head: 'Portal', kind: 'name', value: ({ port }) => port },
  {
    head: 'Address',
    kind: 'mono',
    value: ({ address, tcp }) => `${address}${tcp === ISCSI_PORT ? '' : `, TCP ${tcp}`}`,
  },
  { head: 'Network', value: ({ network }) => network },
  { head: 'VLAN', kind: 'number', value: ({ vlan }) => vlan },
  { head: 'MTU', kind: 'number', value: ({ mtu }) => mtu },
  { head: 'Group', kind: 'number', value: ({ group }) => group },
  { head: 'Sessions', kind: 'number', value: ({ sessions }) => sessions },
];

const sessionColumns: Column<TargetLine['connected'][number]>[] = [
  { head: 'Host', kind: 'name', value: ({ host }) => host },
  { head: 'From', value: ({ from }) => from },
  { head: 'To', value: ({ to }) => to },
  { head: 'Network', value: ({ network }) => network },
  { head: 'Connections', kind: 'number', value: ({ connections }) => connections },
];

const guestPost = ({ sessions, expected }: GuestLine): Post => {
  if (sessions === 0) return expected > 0 ? 'broken' : 'absent';
  return sessions < expected ? 'leans' : 'stands';
};

const comesBy = { told: 'was told to log in', mapped: 'something is mapped' };

/** What an initiator may, by which rule, and whether it comes at all. */
function accessLines({ by, access, exception, name }: GuestLine): string[] {
  if (by === null && access === 'read-write') return ['does not log in'];
  return [
    access,
    ...(exception && exception !== name ? [`by its rule for ${exception}`] : []),
    by === null ? 'does not log in' : comesBy[by],
  ];
}

/** Who is on record at a target, what each may, and how many of its sessions stand. */
function Guests({ target }: { target: TargetLine }) {
  const { open } = usePlace();
  const { array, name: targetName } = target;
  const columns = useMemo(
    (): AnyColumn<GuestLine>[] => [
      stateColumn(guestPost),
      {
        head: 'Initiator',
        value: ({ name, why }) => `${name} ${why ?? ''}`,
        cell: ({ name, why }) => (
          <>
            <span className="mono text-[11px] [overflow-wrap:anywhere]">{name}</span>
            {why && <span className="block text-ink2">{why}</span>}
          </>
        ),
      },
      {
        head: 'Access',
        width: 'whitespace-nowrap',
        value: (guest) => accessLines(guest).join(', '),
        cell: (guest) =>
          accessLines(guest).map((line, k, all) => (
            <span key={line} className={k === 0 && all.length > 1 ? 'block' : 'block text-ink2'}>
              {line}
            </span>
          )),
      },
      { head: 'Secret', kind: 'muted', value: ({ secret }) => (secret ? 'on record' : 'none') },
      { head: 'Sessions', kind: 'number', value: ({ sessions, expected }) => `${sessions}/${expected}` },
      {
        head: 'Verbs',
        deeds: (guest) => (
          <>
            <button
              type="button"
              className="verb"
              onClick={() => open('login', { host: guest.host, array, target: targetName })}
            >
              Test
              <span className="sr-only">
                {' '}
                login of {guest.host} at {array}
              </span>
            </button>{' '}
            <button
              type="button"
              className="verb"
              onClick={() => open('initiator.configure', { host: guest.host, initiator: guest.name, array })}
            >
              Change
              <span className="sr-only">
                {' '}
                {guest.name} at {array}
              </span>
            </button>
          </>
        ),
      },
    ],
    [open, array, targetName],
  );
  return (
    <DataTable
      label={`Initiators at ${titleOf(target)}`}
      rows={target.guests}
      keyOf={({ name }) => name}
      columns={columns}
      className="[&_td]:align-middle!"
    />
  );
}

function Subsystem({ subsystem }: { subsystem: SubsystemLine }) {
  const { open } = usePlace();
  return (
    <section aria-label={`Subsystem ${subsystem.name}`} className="pt-4">
      <div className="flex items-baseline gap-3 overflow-hidden border-b border-ink pb-1 whitespace-nowrap">
        <h2 className="flex items-center gap-2 font-[680]">
          {subsystem.array} subsystem {subsystem.name} <Tag tag="NV" />
        </h2>
        <span className="mono text-[11px]">{subsystem.nqn}</span>
        <span className="text-ink2">
          {subsystem.controllers} of at most {subsystem.controllerLimit} controllers connected, by{' '}
          {subsystem.connections} TCP connections
        </span>
        <span className="flex-1" />
        <button
          type="button"
          className="verb"
          onClick={() => open('subsystem.configure', { array: subsystem.array, name: subsystem.name })}
        >
          Change<span className="sr-only"> subsystem {subsystem.name}</span>
        </button>
      </div>
      <dl className="grid grid-cols-[110px_minmax(0,1fr)] gap-x-3 gap-y-0.5 pt-1">
        <dt className="caps pt-[2px]">Let in</dt>
        <dd>
          {subsystem.allowAny
            ? 'every host'
            : subsystem.allowed.map((one) => (
                <span key={one.nqn} className="block">
                  <span className="mono text-[11px]">{one.nqn}</span>{' '}
                  <span className={one.host ? 'text-ink2' : 'text-red'}>{one.host || 'nobody’s'}</span>
                </span>
              ))}
          {!subsystem.allowAny && subsystem.allowed.length === 0 && 'nobody'}
        </dd>
        <dt className="caps pt-[2px]">Offered at</dt>
        <dd className="mono">{subsystem.ports.join('; ') || 'nowhere'}</dd>
        <dt className="caps pt-[2px]">Namespaces</dt>
        <dd>
          {subsystem.namespaces.length === 0
            ? 'none'
            : subsystem.namespaces.map((one) => (
                <span key={one.id} className="block">
                  <b className="num font-[640]">{one.id}</b> {one.volume}{' '}
                  <span className="text-ink2">for {one.hosts.join(', ')}</span>
                </span>
              ))}
        </dd>
      </dl>
    </section>
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
