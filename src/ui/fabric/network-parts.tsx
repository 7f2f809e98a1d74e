'use client';
import { useQuery } from '@tanstack/react-query';
import type { GuestLine, NetworkLine, SubsystemLine, TargetLine, TargetView } from '@/core/trace/target-view';
import { api } from '../api/client';
import { Tag } from '../look/marks';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
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
        <table className="table [&_td]:align-middle!" aria-label={`Portals of ${target.array}`}>
          <thead>
            <tr>
              <th className="w-6" aria-label="State" />
              <th>Portal</th>
              <th>Address</th>
              <th>Network</th>
              <th className="right">VLAN</th>
              <th className="right">MTU</th>
              <th className="right">Group</th>
              <th className="right">Sessions</th>
            </tr>
          </thead>
          <tbody>
            {target.portals.map((portal) => (
              <tr key={portal.address}>
                <td>
                  <StatePost post={portal.up ? 'stands' : 'broken'} />
                </td>
                <td className="name">{portal.port}</td>
                <td className="mono">
                  {portal.address}
                  {portal.tcp === ISCSI_PORT ? '' : `, TCP ${portal.tcp}`}
                </td>
                <td>{portal.network}</td>
                <td className="num right">{portal.vlan}</td>
                <td className="num right">{portal.mtu}</td>
                <td className="num right">{portal.group}</td>
                <td className="num right">{portal.sessions}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <table className="table [&_td]:align-middle!" aria-label={`Initiators at ${target.array}`}>
          <thead>
            <tr>
              <th className="w-6" aria-label="State" />
              <th>Initiator</th>
              <th>Access</th>
              <th>Secret</th>
              <th className="right">Sessions</th>
              <th aria-label="Verbs" />
            </tr>
          </thead>
          <tbody>
            {target.guests.map((guest) => (
              <Guest key={guest.name} guest={guest} target={target} />
            ))}
          </tbody>
        </table>
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
      <table className="table" aria-label={`Sessions at ${target.array}${target.main ? '' : ` target ${target.name}`}`}>
        <thead>
          <tr>
            <th>Host</th>
            <th>From</th>
            <th>To</th>
            <th>Network</th>
            <th className="right">Connections</th>
          </tr>
        </thead>
        <tbody>
          {target.connected.map((one) => (
            <tr key={`${one.host} ${one.from} ${one.to}`}>
              <td className="name">{one.host}</td>
              <td>{one.from}</td>
              <td>{one.to}</td>
              <td>{one.network}</td>
              <td className="num right">{one.connections}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

function Guest({ guest, target }: { guest: GuestLine; target: TargetLine }) {
  const { open } = usePlace();
  const { array } = target;
  const post =
    guest.sessions === 0
      ? guest.expected > 0
        ? 'broken'
        : 'absent'
      : guest.sessions < guest.expected
        ? 'leans'
        : 'stands';
  return (
    <tr>
      <td>
        <StatePost post={post} />
      </td>
      <td>
        <span className="mono text-[11px] [overflow-wrap:anywhere]">{guest.name}</span>
        {guest.why && <span className="block text-ink2">{guest.why}</span>}
      </td>
      <td className="whitespace-nowrap">
        {guest.by === null && guest.access === 'read-write' ? (
          <span className="text-ink2">does not log in</span>
        ) : (
          <>
            {guest.access}
            {guest.exception && guest.exception !== guest.name && (
              <span className="block text-ink2">by its rule for {guest.exception}</span>
            )}
            <span className="block text-ink2">
              {guest.by === 'told'
                ? 'was told to log in'
                : guest.by === 'mapped'
                  ? 'something is mapped'
                  : 'does not log in'}
            </span>
          </>
        )}
      </td>
      <td className="text-ink2">{guest.secret ? 'on record' : 'none'}</td>
      <td className="num right">
        {guest.sessions}/{guest.expected}
      </td>
      <td className="whitespace-nowrap">
        <button
          type="button"
          className="verb"
          onClick={() => open('login', { host: guest.host, array, target: target.name })}
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
      </td>
    </tr>
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

function Networks({ networks }: { networks: readonly NetworkLine[] }) {
  return (
    <section aria-label="Networks" className="pt-4">
      <h2 className="caps border-b border-ink pb-1">Networks</h2>
      <table className="table w-full" aria-label="Networks">
        <thead>
          <tr>
            <th className="w-6" aria-label="State" />
            <th>Network</th>
            <th>Subnet</th>
            <th>Site</th>
            <th className="right">VLAN</th>
            <th className="right">MTU</th>
            <th>Portals</th>
            <th>Host interfaces</th>
          </tr>
        </thead>
        <tbody>
          {networks.map((network) => (
            <tr key={network.name}>
              <td>
                <StatePost post={network.up ? 'stands' : 'broken'} />
              </td>
              <td className="name">{network.name}</td>
              <td className="mono">{network.cidr}</td>
              <td>{network.site}</td>
              <td className="num right">{network.vlan}</td>
              <td className="num right">{network.mtu}</td>
              <td>{network.portals.join(', ') || <span className="text-ink2">none</span>}</td>
              <td>
                {network.interfaces.length === 0 && <span className="text-ink2">none</span>}
                {network.interfaces.map((row, k) => (
                  <span key={`${row.host} ${row.name}`}>
                    {k > 0 && ', '}
                    {row.host} {row.name}
                    {row.mtu !== network.mtu && <span className="text-red"> MTU {row.mtu}</span>}
                    {!row.up && <span className="text-red"> down</span>}
                  </span>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** What name servers hold: who is registered with which portals, who is in no domain, and who is told of whom. */
function Nodes({ nodes }: { nodes: TargetView['nodes'] }) {
  return (
    <table className="table mb-4 w-full" aria-label="Registered nodes">
      <thead>
        <tr>
          <th>Registered</th>
          <th>Entity</th>
          <th>Portals</th>
          <th>Domains</th>
          <th>Is told of</th>
        </tr>
      </thead>
      <tbody>
        {nodes.map((node) => (
          <tr key={node.name}>
            <td className="mono text-[11px] [overflow-wrap:anywhere]">{node.name}</td>
            <td className="whitespace-nowrap">
              <span className="name">{node.entity}</span> <span className="text-ink2">{node.role}</span>
            </td>
            <td className="mono text-[11px]">{node.portals.join(', ') || 'none'}</td>
            <td>
              {node.domains.join(', ') || <span className="text-red">in no domain</span>}
              {node.control && <span className="block text-ink2">control node</span>}
            </td>
            <td>
              {node.role === 'target' ? '' : node.discovers.join(', ') || <span className="text-red">no target</span>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function NameService({ view }: { view: TargetView }) {
  const { open } = usePlace();
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
      {view.nodes.length > 0 && <Nodes nodes={view.nodes} />}
      {view.domains.length > 0 && (
        <table className="table w-full" aria-label="Discovery domains">
          <thead>
            <tr>
              <th>Domain</th>
              <th>Members</th>
              <th>Sets</th>
            </tr>
          </thead>
          <tbody>
            {view.domains.map((domain) => (
              <tr key={domain.name}>
                <td className="name">
                  <button
                    type="button"
                    className="verb"
                    onClick={() => open('discovery-domain.configure', { name: domain.name })}
                  >
                    {domain.name}
                  </button>
                </td>
                <td>
                  {domain.members.map((one) => (
                    <span key={one.name} className="block">
                      <span className="mono text-[11px]">{one.name}</span>{' '}
                      <span className={one.owner ? 'text-ink2' : 'text-red'}>{one.owner || 'nobody’s'}</span>
                    </span>
                  ))}
                </td>
                <td>
                  {domain.sets.length === 0 && <span className="text-red">in no set</span>}
                  {domain.sets.map((set) => (
                    <span key={set.name} className="block">
                      {set.name}, {set.enabled ? 'enabled' : <span className="text-red">not enabled</span>}
                    </span>
                  ))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
