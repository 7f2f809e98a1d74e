'use client';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Post } from '@/core/span/model';
import type { DeviceLine, DevicePath, HostSheet as Sheet, SessionLine } from '@/core/trace/host-view';
import type { PathSelector } from '@/core/estate/entities';
import { formatBytes } from '@/core/units/bytes';
import { formatDuration } from '@/core/units/duration';
import { api } from '../api/client';
import { Tag } from '../look/marks';
import { StatePost } from '../look/post';
import { labTime } from '../shell/clock-context';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { Column } from '../table/columns';
import { DataTable } from '../table/data-table';
import { SheetFrame } from '../sheet/sheet-frame';
import { outageBefore } from './timeline';
import { DeviceFiles } from './device-files';
import { PathTimeline } from './path-timeline';

const tags = { fc: 'FC', iscsi: 'IS', 'nvme-tcp': 'NV' } as const;
const selectors: Record<PathSelector, string> = {
  failover: 'one path, others in reserve',
  'round-robin': 'round robin',
  'queue-depth': 'least queue depth',
  'service-time': 'least service time',
};
const heading = 'caps border-b border-ink px-4 pt-3 pb-1';

/** A host with what it has found: devices and their paths, sessions, discovery, and what happened to paths. */
export function HostSheet({ host }: { host: string }) {
  const { open } = usePlace();
  const { data, error } = useQuery({
    queryKey: ['host-sheet', host],
    queryFn: () => api.hostSheet(host),
    // Timers fall due without anything being committed.
    refetchInterval: ({ state }) => (state.data?.devices.some(isPending) ? 2000 : false),
  });
  return (
    <SheetFrame
      title={host}
      line={
        data &&
        `${data.devices.length} ${data.devices.length === 1 ? 'volume' : 'volumes'} mapped, I/O by ${selectors[data.selector]}`
      }
    >
      {error && <p className="refusal m-4">The host was asked for. {error.message}</p>}
      {data && (
        <>
          <div className="flex flex-wrap gap-x-4 gap-y-1 px-4 pt-2">
            <button type="button" className="verb" onClick={() => open('storage.give', { host })}>
              Give storage
            </button>
            <button type="button" className="verb" onClick={() => open('host.rescan', { host })}>
              Rescan
            </button>
            <button type="button" className="verb" onClick={() => open('host.configure', { host })}>
              Change it
            </button>
            <button type="button" className="verb" onClick={() => open('interface.configure', { host })}>
              Set up an interface
            </button>
            <button type="button" className="verb" onClick={() => open('storage.take-back', { host })}>
              Take storage back
            </button>
          </div>
          <Names sheet={data} />
          <h2 className={heading}>Devices and paths</h2>
          {data.devices.length === 0 && <p className="px-4 py-1 text-ink2">Nothing is mapped.</p>}
          <ul aria-label="Devices">
            {data.devices.map((line) => (
              <Device key={`${line.array} ${line.volume}`} line={line} host={host} />
            ))}
          </ul>
          <DeviceFiles host={host} sheet={data} />
          <Sessions sheet={data} />
          {data.targets.length > 0 && <Targets sheet={data} />}
          {data.discovery.entries.length + data.discovery.warnings.length > 0 && <Discovery sheet={data} />}
          <Events sheet={data} />
        </>
      )}
    </SheetFrame>
  );
}

/** Whether something about its paths changes by time alone. */
const isPending = ({ paths, io }: DeviceLine): boolean =>
  io.flow === 'waits' || paths.some(({ standing }) => standing === 'failed' || standing === 'unnoticed');

function Names({ sheet }: { sheet: Sheet }) {
  return (
    <dl className="grid grid-cols-[52px_minmax(0,1fr)] gap-x-3 px-4 pt-2">
      {sheet.names.map((one) => (
        <div key={one.name} className="contents">
          <dt className="caps pt-[2px]">{one.kind}</dt>
          <dd className="mono text-[11px] break-all">{one.name}</dd>
        </div>
      ))}
    </dl>
  );
}

function postOf(line: DeviceLine): Post {
  const { found, expected, device } = line;
  if (found === 0) return 'broken';
  return found < expected || !device || !line.identity.equal ? 'leans' : 'stands';
}

function Device({ line, host }: { line: DeviceLine; host: string }) {
  const { open } = usePlace();
  const [unfolded, setUnfolded] = useState(line.found < line.expected);
  const { device } = line;
  const missing = line.paths.find((path) => path.state === 'missing');
  return (
    <li className="border-b border-rule-faint px-4 py-1">
      <div className="flex items-baseline gap-2">
        <span className="translate-y-[2px]">
          <StatePost post={postOf(line)} />
        </span>
        <span className="name max-w-[220px] min-w-[120px] truncate">{line.volume}</span>
        <span className="num w-[84px] text-ink2">
          {line.namespace ? 'namespace' : 'LUN'} {line.lun}
          {line.target && <span className="block text-ink2">of target {line.target}</span>}
        </span>
        <span className="min-w-0 flex-1 truncate">
          {device
            ? `${device.name}, ${formatBytes(device.size)}, ${deviceWords(device)}`
            : 'mapped, not looked for yet'}
        </span>
        <button
          type="button"
          className="verb num"
          aria-expanded={unfolded}
          onClick={() => setUnfolded(!unfolded)}
          aria-label={`${line.found} of ${line.expected} paths of ${line.volume}`}
        >
          <span className={line.found < line.expected ? 'text-red' : ''}>
            {line.found}/{line.expected}
          </span>{' '}
          paths
        </button>
        <button
          type="button"
          className="verb"
          onClick={() => open('trace', { host, volume: `${line.array}/${line.volume}` })}
        >
          Trace<span className="sr-only"> {line.volume}</span>
        </button>
      </div>
      {device && ioWords(line.io) && <p className="pl-5 text-red">{ioWords(line.io)}</p>}
      {!unfolded && missing && <p className="pl-5 text-red">{missing.why}</p>}
      {unfolded && (
        <>
          <p className="mono pl-5 text-[11px] break-all text-ink2">{agreedText(line.identity)}</p>
          {device && (
            <p className="flex gap-3 pl-5">
              <span className="text-ink2">
                {selectors[device.selector]}
                {device.ownSelector ? ', its own' : ', as its host'}
              </span>
              <button
                type="button"
                className="verb"
                onClick={() => open('host-device.configure', { host, device: device.name })}
              >
                Change<span className="sr-only"> {device.name}</span>
              </button>
              {verbsOf(device).map(({ label, kind }) => (
                <button
                  key={kind}
                  type="button"
                  className="verb"
                  onClick={() => open(kind, { host, device: device.name })}
                >
                  {label}
                  <span className="sr-only"> {device.name}</span>
                </button>
              ))}
            </p>
          )}
          <Paths paths={line.paths} volume={line.volume} />
        </>
      )}
    </li>
  );
}

/** What can be done with a device as it is. */
function verbsOf(device: NonNullable<DeviceLine['device']>): { label: string; kind: string }[] {
  if (device.mountPoint) return [{ label: 'Unmount', kind: 'host-device.unmount' }];
  return [
    ...(device.fileSystem ? [{ label: 'Mount', kind: 'host-device.mount' }] : []),
    { label: 'Format', kind: 'host-device.format' },
    { label: 'Remove', kind: 'host-device.remove' },
  ];
}

function deviceWords(device: NonNullable<DeviceLine['device']>): string {
  if (device.state === 'offline') return 'offline';
  if (!device.fileSystem) return device.initialised ? 'initialised, blank' : 'blank';
  if (!device.mountPoint) return `${device.fileSystem}, not mounted`;
  return `${device.fileSystem} at ${device.mountPoint}${device.persistent ? '' : ', not after a restart'}`;
}

const pathPosts: Record<DevicePath['state'], Post> = {
  optimized: 'stands',
  'non-optimized': 'stands',
  transitioning: 'leans',
  unavailable: 'broken',
  missing: 'broken',
};

/** What the host makes of a path, and when that changes by itself. */
function standingWords({ standing, since, removedAt, share }: DevicePath): string {
  const from = since === null ? '' : ` since ${labTime(since).slice(-8)}`;
  if (standing === 'unnoticed')
    return since === null
      ? 'lost, and the host never notices'
      : `lost, the host notices at ${labTime(since).slice(-8)}`;
  if (standing === 'absent') return 'never seen by the host';
  if (standing === 'failed')
    return `failed${from}, ${removedAt === null ? 'never given up' : `given up at ${labTime(removedAt).slice(-8)}`}`;
  if (standing === 'removed') return `given up${from}`;
  const words = {
    active: share > 0 ? 'carries I/O' : 'ready',
    enabled: 'in reserve',
    standby: 'waits, carries nothing',
  };
  return `${words[standing]}${from}`;
}

/** Whether I/O to a device waits for a path or fails; nothing while it flows. */
function ioWords({ flow, at, failsAt }: DeviceLine['io']): string {
  if (flow === 'flows') return '';
  if (flow === 'fails') return `No path is left: I/O fails since ${labTime(at).slice(-8)}.`;
  return `No path is left: I/O waits since ${labTime(at).slice(-8)}, and fails at ${labTime(failsAt!).slice(-8)}.`;
}

const pathColumns: Column<DevicePath>[] = [
  stateColumn(({ state }) => pathPosts[state]),
  { head: 'Path', width: 'whitespace-nowrap', value: ({ from, to }) => `${from} to ${to}` },
  {
    head: 'Over',
    width: 'whitespace-nowrap',
    value: ({ transport, via }) => `${tags[transport]} ${via}`,
    cell: ({ transport, via }) => (
      <>
        <Tag tag={tags[transport]} /> {via}
      </>
    ),
  },
  {
    head: 'Standing',
    value: (path) => `${stateWords(path)}, ${standingWords(path)}`,
    className: ({ state }) => (state === 'missing' ? 'text-red' : ''),
    cell: (path) => (
      <>
        {stateWords(path)}
        <span className="block text-ink2">{standingWords(path)}</span>
      </>
    ),
  },
  {
    head: 'I/O',
    unit: '%',
    kind: 'number',
    value: ({ state, share }) => (state === 'missing' ? null : Math.round(share * 100)),
    cell: ({ state, share }) => (state === 'missing' ? '' : `${Math.round(share * 100)} %`),
  },
];

const stateWords = ({ why, state, group }: DevicePath): string =>
  why || `${state}${group === null ? '' : `, ANA group ${group}`}`;

const Paths = ({ paths, volume }: { paths: readonly DevicePath[]; volume: string }) => (
  <DataTable
    label={`Paths of ${volume}`}
    rows={paths}
    keyOf={({ from, to }) => `${from} ${to}`}
    columns={pathColumns}
    className="[&_td]:align-middle!"
  />
);

const identityText = (names: readonly { label: string; value: string }[]): string =>
  names.map(({ label, value }) => (label === 'NAA' ? value : `${label} ${value}`)).join(', ');

const letInWords = {
  zoning: 'zones let it in',
  told: 'was told to log in',
  mapped: 'logs in by itself: something is mapped',
};

function Sessions({ sheet }: { sheet: Sheet }) {
  const { open, openStep } = usePlace();
  const isns = sheet.targets.some((one) => one.by === 'isns');
  return (
    <>
      <h2 className={heading}>Sessions</h2>
      {sheet.sessions.length === 0 && <p className="px-4 py-1 text-ink2">Logged in nowhere.</p>}
      <ul aria-label="Sessions">
        {sheet.sessions.map((line) => (
          <li key={`${line.array} ${line.transport}`} className="border-b border-rule-faint px-4 py-1">
            <div className="flex items-baseline gap-2">
              <span className="translate-y-[2px]">
                <StatePost post={sessionPost(line)} />
              </span>
              <span className="name w-[100px]">{line.array}</span>
              <Tag tag={tags[line.transport]} />
              <span className="num">
                {line.up} of {line.expected} {line.transport === 'fc' ? 'port pairs' : 'sessions'}
              </span>
              <span className="text-ink2">
                {line.by ? letInWords[line.by] : ''}
                {line.transport === 'iscsi' && (isns ? ', found by iSNS' : ', found by asking portals')}
              </span>
              <span className="flex-1" />
              {line.transport === 'iscsi' && (
                <button
                  type="button"
                  className="verb"
                  onClick={() => open('login', { host: sheet.name, array: line.array })}
                >
                  Test the login<span className="sr-only"> at {line.array}</span>
                </button>
              )}
              {line.mend && (
                <button type="button" className="verb" onClick={() => openStep(line.mend!)}>
                  {line.mend.label}
                </button>
              )}
            </div>
            {line.why && <p className={`pl-5 ${line.up === 0 ? 'text-red' : ''}`}>{line.why}</p>}
          </li>
        ))}
      </ul>
    </>
  );
}
/** What discovery tells the host of targets, and which of their portals it does not reach. */
function Targets({ sheet }: { sheet: Sheet }) {
  return (
    <>
      <h2 className={heading}>iSCSI targets</h2>
      <DataTable label="iSCSI targets" rows={sheet.targets} keyOf={({ iqn }) => iqn} columns={targetColumns} inset />
    </>
  );
}

/** Portals it is told of and cannot reach cost a login time-out each. */
function unreachedWords(portals: Sheet['targets'][number]['portals']): string {
  const out = portals.filter((portal) => !portal.reached);
  return out.length === portals.length
    ? `${out.length === 1 ? 'one portal' : `${out.length} portals`}, none in reach`
    : `out of reach: ${out.map((portal) => portal.address).join(', ')}`;
}

function sessionPost({ up, expected }: SessionLine): Post {
  if (up === 0) return 'broken';
  return up < expected ? 'leans' : 'stands';
}

function Discovery({ sheet }: { sheet: Sheet }) {
  return (
    <>
      <h2 className={heading}>Discovery log</h2>
      <DataTable
        label="Discovery log"
        rows={sheet.discovery.entries}
        keyOf={({ nqn, address }) => `${nqn} ${address}`}
        columns={discoveryColumns}
        inset
      />
      {sheet.discovery.warnings.map((warning) => (
        <p key={warning} className="px-4 py-0.5 text-red">
          {warning}
        </p>
      ))}
    </>
  );
}

/** What happened to paths, newest first, with how long the host took to go on by another. */
function Events({ sheet }: { sheet: Sheet }) {
  return (
    <>
      <h2 className={heading}>Path events</h2>
      {sheet.events.length === 0 && <p className="px-4 py-1 text-ink2">Nothing has happened to its paths yet.</p>}
      <PathTimeline events={sheet.events} />
      <ol aria-label="Path events" className="pb-3">
        {sheet.events.map((event, k) => (
          <li
            key={`${event.at} ${event.from} ${event.to} ${k}`}
            className="flex items-baseline gap-2 border-b border-rule-faint px-4 py-0.5"
          >
            <span className="translate-y-[2px]">
              <StatePost post={event.after === 'down' || event.after === 'unavailable' ? 'broken' : 'stands'} />
            </span>
            <span className="mono text-[11px] whitespace-nowrap">{labTime(event.at, true)}</span>
            <span className="whitespace-nowrap">
              {event.from} to {event.array} {event.to}
            </span>
            <span>
              {event.before} → <b className="font-[640]">{event.after}</b>
              <span className="text-ink2">
                {' '}
                {event.reason}
                {outageBefore(sheet.events, k) === null
                  ? ''
                  : `, after ${formatDuration(outageBefore(sheet.events, k)!)} down`}
              </span>
              {event.after === 'down' && <span className="text-ink2">{noticedText(event.noticedAfter)}</span>}
            </span>
          </li>
        ))}
      </ol>
    </>
  );
}

const toldWords = ({ offered, by }: Sheet['targets'][number]): string => {
  if (!offered) return 'not offered';
  return by === 'isns' ? 'by iSNS' : 'by its portals';
};

const targetColumns: Column<Sheet['targets'][number]>[] = [
  {
    head: 'Target',
    value: ({ array, alias, iqn }) => `${array} ${alias} ${iqn}`,
    cell: ({ array, alias, iqn }) => (
      <>
        <span className="name">
          {array}
          {alias && ` ${alias}`}
        </span>
        <span className="mono block text-[11px] [overflow-wrap:anywhere]">{iqn}</span>
      </>
    ),
  },
  {
    head: 'Portals and their groups',
    value: ({ portals }) => portals.map(({ address, group }) => `${address},${group}`).join(' '),
    cell: ({ portals }) => (
      <>
        {portals
          .filter(({ reached }) => reached)
          .map(({ address, group }) => (
            <span key={address} className="mono block text-[11px] whitespace-nowrap">
              {address},{group}
            </span>
          ))}
        {portals.some(({ reached }) => !reached) && <span className="block text-ink2">{unreachedWords(portals)}</span>}
      </>
    ),
  },
  { head: 'Told', value: toldWords, className: ({ offered }) => (offered ? '' : 'text-ink2') },
];

const discoveryColumns: Column<Sheet['discovery']['entries'][number]>[] = [
  { head: 'Subsystem NQN', kind: 'mono', className: 'text-[11px] break-all', value: ({ nqn }) => nqn },
  { head: 'Address', kind: 'mono', value: ({ address, service }) => `${address}:${service}` },
  { head: 'Port ID', kind: 'number', value: ({ portId }) => portId },
  { head: 'Controller ID', kind: 'mono', value: ({ controllerId }) => controllerId },
  {
    head: 'Told by',
    value: ({ array, referredBy }) => `${array}${referredBy ? ` referred by ${referredBy}` : ''}`,
    cell: ({ array, referredBy }) => (
      <>
        {array}
        {referredBy && <span className="block text-ink2">referred by {referredBy}</span>}
      </>
    ),
  },
];

/** Under which names both sides know a device, and whether they agree. */
function agreedText({ array, host, equal }: DeviceLine['identity']): string {
  if (host === null) return `${identityText(array)}; the host has read nothing yet`;
  return equal
    ? `${identityText(array)}; equal on both sides`
    : `array ${identityText(array)}; host ${identityText(host)}: not equal`;
}

/** When a host noticed that a path was gone. */
function noticedText(after: number | null): string {
  if (after === null) return '; never noticed';
  if (after === 0) return '; noticed at once';
  return `; the host went on after ${after < 1000 ? `${after} ms` : formatDuration(after)}`;
}
