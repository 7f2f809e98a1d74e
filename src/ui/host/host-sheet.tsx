'use client';
import { useQuery } from '@tanstack/react-query';
import type { DeviceLine, HostSheet as Sheet } from '@/core/trace/host-view';
import { api } from '../api/client';
import { usePlace } from '../shell/place';
import { SheetFrame } from '../sheet/sheet-frame';
import { DeviceFiles } from './device-files';
import { Device } from './device-line';
import { Discovery, Sessions, Targets } from './host-sessions';
import { Events } from './path-events';
import { heading, selectors } from './words';

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
