'use client';
import { useState } from 'react';
import type { Post } from '@/core/span/model';
import type { DeviceLine, DevicePath } from '@/core/trace/host-view';
import { formatBytes } from '@/core/units/bytes';
import { Tag } from '../look/marks';
import { StatePost } from '../look/post';
import { labTime } from '../shell/clock-context';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { Column } from '../table/columns';
import { DataTable } from '../table/data-table';
import { selectors, tags } from './words';

function postOf(line: DeviceLine): Post {
  const { found, expected, device } = line;
  if (found === 0) return 'broken';
  return found < expected || !device || !line.identity.equal ? 'leans' : 'stands';
}

/** A device of a host with its paths, and what can be done with it. */
export function Device({ line, host }: { line: DeviceLine; host: string }) {
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

/** Under which names both sides know a device, and whether they agree. */
function agreedText({ array, host, equal }: DeviceLine['identity']): string {
  if (host === null) return `${identityText(array)}; the host has read nothing yet`;
  return equal
    ? `${identityText(array)}; equal on both sides`
    : `array ${identityText(array)}; host ${identityText(host)}: not equal`;
}
