'use client';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { faultKinds, type FaultKind } from '@/core/lab/fault-kinds';
import { workWords } from '@/core/kinds/work-words';
import type { LabView } from '@/core/lab/view';
import { formatBytes } from '@/core/units/bytes';
import { formatDuration } from '@/core/units/duration';
import { api, type ApiRefusal } from '../api/client';
import { StatePost } from '../look/post';
import { Pick } from '../sheet/controls';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';
import { SheetFrame } from '../sheet/sheet-frame';
import { labTime, useClock } from '../shell/clock-context';

const kindLabels: Record<FaultKind, string> = {
  'drive-failed': 'A drive fails',
  'drive-predicted': 'A drive expects to fail',
  'drive-missing': 'A drive is pulled',
  'enclosure-down': 'An enclosure goes silent',
  'port-down': 'An array port goes down',
  'controller-down': 'A controller goes down',
  'interface-down': 'A host port goes down',
  'adapter-down': 'A host card dies',
  'switch-down': 'A switch goes down',
  'isl-down': 'A link between switches goes down',
  'site-link-down': 'A link between sites goes down',
  'site-link-slow': 'A link between sites grows slow',
  'site-link-lossy': 'A link between sites loses segments',
  'witness-down': 'A witness goes down',
  'site-down': 'A whole site goes down',
  'network-down': 'A network goes down',
  'array-down': 'An array goes down',
  'agent-absent': 'An agent does not answer',
  'agent-slow': 'An agent takes too long to pause',
  'agent-silent': 'An agent never tells that it goes on',
  'clock-jump': 'The clock of an array jumps',
};

/** What is broken and can be broken, what is in work, who writes how fast. */
export function LabSheet() {
  const lab = useQuery({ queryKey: ['lab'], queryFn: api.lab });
  const clock = useClock();
  const [kind, setKind] = useState<FaultKind>('port-down');
  const [component, setComponent] = useState('');
  const fault = useMutation<{ said: string }, ApiRefusal, { kind: FaultKind; component: string; clear: boolean }>({
    mutationFn: (wanted) => api.fault(wanted.kind, wanted.component, wanted.clear),
    onSuccess: () => setComponent(''),
  });
  const data = lab.data;
  if (!data) return <SheetFrame title="Faults and traffic">{null}</SheetFrame>;
  const now = clock?.now ?? data.now;
  const choices = data.breakable
    .filter((one) => one.kind === kind)
    .map((one) => ({ value: one.component, label: one.name }));
  const heading = 'caps border-b border-ink pt-3 pb-1';
  return (
    <SheetFrame title="Faults and traffic" line="the simulated lab">
      <div className="grid gap-1 px-4 pb-4">
        <h2 className={heading}>Break something</h2>
        <div className="grid grid-cols-[1fr_1fr_auto] items-center gap-2 py-1.5">
          <Pick
            id="fault-kind"
            label="What happens"
            value={kind}
            choices={faultKinds.map((value) => ({ value, label: kindLabels[value] }))}
            invalid={false}
            describedBy="fault-says"
            onPick={(value) => {
              setKind(value as FaultKind);
              setComponent('');
            }}
          />
          <Pick
            id="fault-component"
            label="To what"
            value={component}
            choices={choices}
            invalid={false}
            describedBy="fault-says"
            onPick={setComponent}
          />
          <button
            type="button"
            className="btn"
            disabled={component === '' || fault.isPending}
            onClick={() => fault.mutate({ kind, component, clear: false })}
          >
            Break it
          </button>
        </div>
        <p id="fault-says" className="text-ink2">
          {fault.error ? (
            <span className="refusal block" role="alert">
              {fault.error.message} {fault.error.mend}
            </span>
          ) : (
            (fault.data?.said ?? 'Paths and states follow at once.')
          )}
        </p>

        <h2 className={heading}>Broken now, {data.faults.length}</h2>
        {data.faults.length === 0 && <p className="py-1 text-ink2">Nothing is broken.</p>}
        <ul>
          {data.faults.map((one) => (
            <li key={one.component} className="flex items-center gap-2 border-b border-rule-faint py-1">
              <StatePost post={one.post} />
              <span className="name">{one.name}</span>
              <span className="text-ink2">{one.says}</span>
              <span className="flex-1" />
              {one.state !== 'rebuilding' && (
                <button
                  type="button"
                  className="verb"
                  onClick={() => fault.mutate({ kind: one.kind, component: one.component, clear: true })}
                >
                  Mend
                  <span className="sr-only"> {one.name}</span>
                </button>
              )}
            </li>
          ))}
        </ul>

        <h2 className={heading}>In work, {data.jobs.length}</h2>
        {data.jobs.length === 0 && <p className="py-1 text-ink2">No job is at work.</p>}
        <ul>
          {data.jobs.map((job) => {
            const share = job.paused
              ? job.progress
              : Math.min(1, Math.max(job.progress, (now - job.startedAt) / (job.finishesAt - job.startedAt)));
            return (
              <li key={job.id} className="num flex items-center gap-2 border-b border-rule-faint py-1">
                <StatePost post={job.paused ? 'leans' : 'in work'} />
                <span className="name">
                  {job.array} {job.subject}
                </span>
                <span className="text-ink2">{workWords[job.kind].tells}</span>
                <span className="flex-1" />
                <b>{Math.floor(share * 100)} %</b>
                {job.paused ? (
                  <span className="text-ink2">stands still: no controller of {job.array} is up</span>
                ) : (
                  <>
                    <span className="text-ink2">{formatBytes(job.rate)}/s</span>
                    <span className="text-ink2">
                      {formatDuration(job.finishesAt - now)} left, until {labTime(job.finishesAt, false)}
                    </span>
                  </>
                )}
              </li>
            );
          })}
        </ul>

        <h2 className={heading}>Traffic</h2>
        {data.traffic.length === 0 ? (
          <p className="py-1 text-ink2">
            No host has anything mounted. Format a device; then set how fast it is written to.
          </p>
        ) : (
          <DataTable
            label="Traffic"
            rows={data.traffic}
            keyOf={({ host, device }) => `${host} ${device}`}
            columns={trafficColumns}
            className="[&_td]:align-middle!"
          />
        )}

        {data.devices.length > 0 && (
          <>
            <h2 className={heading}>One read or write</h2>
            <OneIo devices={data.devices} />
          </>
        )}

        <h2 className={heading}>What the lab did</h2>
        <ul>
          {data.log.map((row, k) => (
            <li key={k} className="flex gap-3 py-0.5">
              <span className="mono flex-none pt-px text-ink2">{labTime(row.atLab, false)}</span>
              <span className={row.level === 'problem' ? 'text-red' : ''}>{row.message}</span>
            </li>
          ))}
        </ul>
      </div>
    </SheetFrame>
  );
}

function Rate({ host, device, rate }: { host: string; device: string; rate: string }) {
  const [text, setText] = useState(rate);
  const set = useMutation<{ rate: string }, ApiRefusal>({ mutationFn: () => api.traffic(host, device, text) });
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        set.mutate();
      }}
    >
      <input
        aria-label={`Rate of ${host} ${device}`}
        aria-invalid={set.isError}
        value={text}
        onChange={(event) => setText(event.target.value)}
        className="field h-6! w-[104px]!"
      />
      <button type="submit" className="verb" disabled={text === rate}>
        Set
      </button>
      {set.error && (
        <span role="alert" className="text-red">
          {set.error.message}
        </span>
      )}
    </form>
  );
}

/** A single I/O at an offset: whether the array takes it, by which path it went, or why it is refused. */
function OneIo({ devices }: { devices: LabView['devices'] }) {
  const keyOf = (one: LabView['devices'][number]) => `${one.host}/${one.device}`;
  const [chosen, setChosen] = useState('');
  const [kind, setKind] = useState<'read' | 'write'>('read');
  const [at, setAt] = useState('0');
  const [size, setSize] = useState('4 KiB');
  const device = devices.find((one) => keyOf(one) === chosen);
  const io = useMutation<{ said: string }, ApiRefusal>({
    mutationFn: () => api.io({ host: device!.host, device: device!.device, kind, at, size }),
  });
  return (
    <form
      className="grid gap-1 py-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (device) io.mutate();
      }}
    >
      <div className="flex items-center gap-2">
        <span className="w-[180px]">
          <Pick
            id="io-device"
            label="Device"
            value={chosen}
            choices={devices.map((one) => ({ value: keyOf(one), label: `${one.host} ${one.device}` }))}
            invalid={false}
            describedBy="io-says"
            onPick={setChosen}
          />
        </span>
        <span className="w-[84px]">
          <Pick
            id="io-kind"
            label="Read or write"
            value={kind}
            choices={[
              { value: 'read', label: 'Read' },
              { value: 'write', label: 'Write' },
            ]}
            invalid={false}
            describedBy="io-says"
            onPick={(value) => setKind(value as 'read' | 'write')}
          />
        </span>
        <input
          aria-label="Size"
          value={size}
          onChange={(event) => setSize(event.target.value)}
          className="field h-6! w-[72px]!"
        />
        <span className="text-ink2">at</span>
        <input
          aria-label="Offset"
          value={at}
          onChange={(event) => setAt(event.target.value)}
          className="field h-6! w-[96px]!"
        />
        <button type="submit" className="verb" disabled={!device || io.isPending}>
          Do it
        </button>
      </div>
      {io.error && (
        <p id="io-says" role="alert" className="text-red">
          {io.error.message} {io.error.mend}
        </p>
      )}
      {io.data && !io.error && (
        <p id="io-says" role="status">
          {io.data.said}.
        </p>
      )}
    </form>
  );
}

/** The host deletes files; the array hears of it when blocks are reclaimed. */
function DeleteFiles({ host, device }: { host: string; device: string }) {
  const [text, setText] = useState('');
  const free = useMutation<{ deleted: string }, ApiRefusal>({
    mutationFn: () => api.deleteFiles(host, device, text),
    onSuccess: () => setText(''),
  });
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        free.mutate();
      }}
    >
      <input
        aria-label={`Files to delete on ${host} ${device}`}
        aria-invalid={free.isError}
        placeholder="20 GiB"
        value={text}
        onChange={(event) => setText(event.target.value)}
        className="field h-6! w-[72px]!"
      />
      <button type="submit" className="verb" disabled={text.trim() === ''}>
        Delete
      </button>
      {free.error && (
        <span role="alert" className="text-red">
          {free.error.message}
        </span>
      )}
    </form>
  );
}

const trafficColumns: AnyColumn<LabView['traffic'][number]>[] = [
  {
    head: 'Mounted at',
    value: ({ host, mountPoint }) => `${host} ${mountPoint}`,
    cell: ({ host, mountPoint }) => (
      <>
        {host} <span className="text-ink2">{mountPoint}</span>
      </>
    ),
  },
  {
    head: 'Used',
    unit: 'bytes',
    kind: 'number',
    value: ({ used }) => used,
    cell: ({ used, size }) => `${formatBytes(used, 'used')} of ${formatBytes(size)}`,
  },
  { head: 'Delete files', seen: true, deeds: ({ host, device }) => <DeleteFiles host={host} device={device} /> },
  {
    head: 'Written each second',
    unit: 'bytes',
    value: ({ rate }) => rate,
    cell: ({ host, device, rate }) => <Rate key={rate} host={host} device={device} rate={rate} />,
  },
];
