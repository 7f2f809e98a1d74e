'use client';
import { useMutation } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import type { HostSheet } from '@/core/trace/host-view';
import { formatBytes } from '@/core/units/bytes';
import { momentText } from '@/core/units/date';
import { api, type ApiRefusal } from '../api/client';
import { usePlace } from '../shell/place';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';

type FileLine = HostSheet['files'][number];

/** What runs on the host, and the named files of its file systems: by them one sees that the right data came back. */
export function DeviceFiles({ host, sheet }: { host: string; sheet: HostSheet }) {
  const { open } = usePlace();
  const remove = useMutation<{ said: string }, ApiRefusal, FileLine>({
    mutationFn: ({ device, path }) => api.file({ host, device, path, do: 'delete' }),
  });
  const columns = useMemo<AnyColumn<FileLine>[]>(
    () => [
      { head: 'File', kind: 'name', value: ({ path }) => path },
      { head: 'On', kind: 'muted', value: ({ mountPoint, device }) => mountPoint ?? device },
      {
        head: 'Size',
        kind: 'number',
        unit: 'bytes',
        value: ({ size }) => size,
        cell: ({ size }) => formatBytes(size, 'used'),
      },
      {
        head: 'Written',
        kind: 'mono',
        width: 'whitespace-nowrap',
        value: ({ writtenAt }) => new Date(writtenAt).toISOString(),
        cell: ({ writtenAt }) => momentText(writtenAt),
      },
      {
        head: 'Checksum',
        kind: 'mono',
        value: ({ checksum }) => checksum,
        cell: ({ checksum }) => checksum.slice(0, 8),
      },
      {
        head: 'Deeds',
        deeds: (file) => (
          <span className="flex gap-3">
            <button
              type="button"
              className="verb"
              disabled={file.mountPoint === null}
              onClick={() => open('host-device.take-file', { host, device: file.device, path: file.path })}
            >
              Take out<span className="sr-only"> {file.path}</span>
            </button>
            <button
              type="button"
              className="verb"
              disabled={file.mountPoint === null || remove.isPending}
              title="As somebody at the host would, by mistake"
              onClick={() => remove.mutate(file)}
            >
              Delete<span className="sr-only"> {file.path}</span>
            </button>
          </span>
        ),
      },
    ],
    [host, open, remove],
  );
  return (
    <>
      <h2 className="caps border-b border-ink px-4 pt-3 pb-1">What runs here, and its files</h2>
      <p className="px-4 py-1 text-ink2">
        {sheet.runs}{' '}
        <button type="button" className="verb" onClick={() => open('host.application', { host })}>
          Say what runs here
        </button>
      </p>
      {remove.error && (
        <p role="alert" className="refusal mx-4">
          {remove.error.message}
        </p>
      )}
      {sheet.files.length > 0 && (
        <DataTable
          label="Files"
          rows={sheet.files}
          keyOf={({ device, path }) => `${device} ${path}`}
          columns={columns}
          inset
        />
      )}
      <WriteFile host={host} devices={sheet.writable} />
    </>
  );
}

/** The lab: somebody at the host writes a file. */
function WriteFile({ host, devices }: { host: string; devices: HostSheet['writable'] }) {
  const [device, setDevice] = useState('');
  const [path, setPath] = useState('');
  const [size, setSize] = useState('');
  const chosen = device || devices[0]?.device || '';
  const write = useMutation<{ said: string }, ApiRefusal>({
    mutationFn: () => api.file({ host, device: chosen, path, do: 'write', size }),
    onSuccess: () => setPath(''),
  });
  if (devices.length === 0) return null;
  return (
    <form
      aria-label="Write a file"
      className="flex items-center gap-2 px-4 py-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        write.mutate();
      }}
    >
      <span className="caps">Lab</span>
      <input
        aria-label="File to write"
        className="field h-6! w-[190px]!"
        placeholder="fares/summer.csv"
        value={path}
        onChange={(event) => setPath(event.target.value)}
      />
      <input
        aria-label="Its size"
        className="field h-6! w-[84px]!"
        placeholder="20 MiB"
        value={size}
        onChange={(event) => setSize(event.target.value)}
      />
      <span className="text-ink2">to</span>
      <select
        aria-label="Where to"
        className="field h-6! w-[150px]!"
        value={chosen}
        onChange={(event) => setDevice(event.target.value)}
      >
        {devices.map((one) => (
          <option key={one.device} value={one.device}>
            {one.mountPoint}
          </option>
        ))}
      </select>
      <button type="submit" className="verb" disabled={path.trim() === '' || size.trim() === '' || write.isPending}>
        Write
      </button>
      {write.error && (
        <span role="alert" className="text-red">
          {write.error.message}
        </span>
      )}
    </form>
  );
}
