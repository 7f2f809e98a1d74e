'use client';
import { useMemo } from 'react';
import type { Post } from '@/core/span/model';
import type { GuestLine, TargetLine } from '@/core/trace/target-view';
import { Tag } from '../look/marks';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { AnyColumn, Column } from '../table/columns';
import { DataTable } from '../table/data-table';
import { ISCSI_PORT } from '@/core/network/portal';

const auths = { none: 'no CHAP', 'one-way': 'CHAP one way', mutual: 'CHAP both ways' } as const;

/** A target with its portals, who is let in, and who is connected. */
export function Target({ target }: { target: TargetLine }) {
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
