'use client';
import type { Post } from '@/core/span/model';
import type { HostSheet as Sheet, SessionLine } from '@/core/trace/host-view';
import { Tag } from '../look/marks';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
import type { Column } from '../table/columns';
import { DataTable } from '../table/data-table';
import { heading, tags } from './words';

const letInWords = {
  zoning: 'zones let it in',
  told: 'was told to log in',
  mapped: 'logs in by itself: something is mapped',
};

/** Where a host is logged in, and where it should be. */
export function Sessions({ sheet }: { sheet: Sheet }) {
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
export function Targets({ sheet }: { sheet: Sheet }) {
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

/** What the discovery controllers told a host of subsystems. */
export function Discovery({ sheet }: { sheet: Sheet }) {
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
