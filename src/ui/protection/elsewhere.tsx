'use client';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { ReplicationRow, SiteLinkRow } from '@/core/replicate/replication-view';
import { formatBytes } from '@/core/units/bytes';
import { momentText } from '@/core/units/date';
import { formatDuration, MINUTE } from '@/core/units/duration';
import { formatRate } from '@/core/units/rate';
import { api } from '../api/client';
import { useParam, usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';
import { PlannerPanel } from './planner-panel';
import { PartnerTable } from './partner-table';
import { DrillPanel } from './drill-panel';
import { DrillTable } from './drill-table';
import { SiteLostTable } from './site-lost-table';
import { ReplicationPanel } from './replication-panel';
import { PairSheet } from './stretch/pair-sheet';
import { WitnessTable } from './witness-table';
import { isLate, replicationPost, standsText } from './replication-words';

const rate = (bytes: number) => formatRate(Math.round(bytes));

/** What stands at other sites, how far behind it is, and the lines that lead there. */
export function Elsewhere() {
  const elsewhere = useQuery({ queryKey: ['protection', 'elsewhere'], queryFn: api.elsewhere });
  const [chosen, setChosen] = useParam('replication');
  const [planning, setPlanning] = useParam('planning');
  const [drilled, setDrill] = useParam('drill');
  const { open } = usePlace();
  const data = elsewhere.data;
  if (elsewhere.error) return <p className="refusal m-3">Other sites were asked for. {elsewhere.error.message}</p>;
  if (!data) return <p className="p-3 text-ink2">Reading what stands at other sites…</p>;
  const drill = data.drills.find(({ id }) => id === drilled);
  const chooseDrill = (id: string) => {
    setPlanning('');
    setDrill(id);
  };
  const choose = (id: string) => {
    setPlanning('');
    setDrill('');
    setChosen(id);
  };
  const stretched = data.replications.filter((one) => one.stretched);
  if (stretched.some(({ id }) => id === chosen))
    return <PairSheet id={chosen} now={data.now} onBack={() => choose('')} others={stretched} onChoose={choose} />;
  const row = data.replications.find(({ id }) => id === chosen) ?? data.replications.find((one) => !one.stretched);
  return (
    <div className="grid min-h-0 flex-1 grid-rows-[auto_minmax(240px,1fr)]">
      <div className="scroller max-h-[46vh] min-h-0 px-3 py-2">
        <h2 className="caps flex items-baseline gap-4 pb-2">
          Replications
          <button type="button" className="verb normal-case" onClick={() => open('replication.create')}>
            Copy to another site
          </button>
          <button type="button" className="verb normal-case" onClick={() => open('stretch.create')}>
            Stretch over two sites
          </button>
          <button
            type="button"
            className="verb normal-case"
            aria-pressed={planning !== ''}
            onClick={() => setPlanning('yes')}
          >
            What would a line hold?
          </button>
        </h2>
        {data.replications.length === 0 ? (
          <p className="py-2 text-ink2">
            Nothing is copied to another site: were an array lost, all of it would be. Note a link between two sites,
            then copy a workload over it.
          </p>
        ) : (
          <Replications rows={data.replications} chosen={row?.id ?? ''} onChoose={choose} />
        )}
        <h2 className="caps flex items-baseline gap-4 pt-3 pb-2">
          Were a site lost now
          <button type="button" className="verb normal-case" onClick={() => open('site.fail-over')}>
            Fail a site over
          </button>
          {data.loss.sites.map((site) => (
            <a
              key={site}
              className="verb inline-flex items-center normal-case"
              href={`/api/v1/protection/report?site=${encodeURIComponent(site)}`}
              download
            >
              Report of {site}
            </a>
          ))}
        </h2>
        <SiteLostTable loss={data.loss} />
        <h2 className="caps flex items-baseline gap-4 pt-3 pb-2">
          Drills
          <button type="button" className="verb normal-case" onClick={() => open('drill.start')}>
            Rehearse a failover
          </button>
        </h2>
        <DrillTable rows={data.drills} chosen={drill?.id ?? ''} onChoose={chooseDrill} />
        <h2 className="caps flex items-baseline gap-4 pt-3 pb-2">
          Links between sites
          <button type="button" className="verb normal-case" onClick={() => open('site-link.create')}>
            Note a link
          </button>
        </h2>
        <Links rows={data.links} />
        <h2 className="caps flex items-baseline gap-4 pt-3 pb-2">
          Witnesses
          <button type="button" className="verb normal-case" onClick={() => open('witness.create')}>
            Set up a witness
          </button>
        </h2>
        <WitnessTable rows={data.witnesses} />
        <h2 className="caps flex items-baseline gap-4 pt-3 pb-2">
          Partners
          <button type="button" className="verb normal-case" onClick={() => open('partner.introduce')}>
            Introduce an array to another
          </button>
        </h2>
        <PartnerTable rows={data.partners} />
      </div>
      {planning && <PlannerPanel onClose={() => setPlanning('')} />}
      {!planning && drill && <DrillPanel drill={drill} onClose={() => setDrill('')} />}
      {!planning && !drill && row && <ReplicationPanel key={row.id} id={row.id} now={data.now} />}
    </div>
  );
}

function Replications({
  rows,
  chosen,
  onChoose,
}: {
  rows: readonly ReplicationRow[];
  chosen: string;
  onChoose: (id: string) => void;
}) {
  const columns = useMemo<AnyColumn<ReplicationRow>[]>(
    () => [
      stateColumn(replicationPost),
      {
        head: 'Replication',
        width: 'whitespace-nowrap',
        value: ({ name }) => name,
        cell: ({ id, name }) => (
          <button
            type="button"
            className={`verb name ${id === chosen ? 'font-[760]!' : ''}`}
            aria-pressed={id === chosen}
            onClick={() => onChoose(id)}
          >
            {name}
          </button>
        ),
      },
      {
        head: 'From, to',
        width: 'whitespace-nowrap',
        value: ({ source, target, stretched }) => `${source} ${stretched ? 'and' : 'to'} ${target}`,
      },
      {
        head: 'State',
        width: 'whitespace-nowrap',
        value: standsText,
        cell: ({ state, mode, stretched, since }) =>
          `${standsText({ state, mode, stretched })} since ${momentText(since).slice(4)}`,
      },
      {
        head: 'Stands there as of',
        width: 'whitespace-nowrap',
        value: ({ pit }) => (pit === null ? '' : new Date(pit).toISOString()),
        cell: ({ pit }) => (pit === null ? <span className="text-red">nothing whole yet</span> : momentText(pit)),
      },
      {
        head: 'Behind, of promised',
        kind: 'number',
        unit: 'min',
        value: ({ lag }) => Math.round(lag / MINUTE),
        cell: (row) => (
          <span className={isLate(row) ? 'text-red' : ''}>
            {formatDuration(row.lag)} of {promisedText(row)}
          </span>
        ),
      },
      {
        head: 'At risk',
        kind: 'number',
        unit: 'bytes',
        value: ({ risk }) => Math.round(risk),
        cell: ({ risk }) => formatBytes(Math.round(risk), 'used'),
      },
      {
        head: 'Needs, has',
        kind: 'number',
        unit: 'B/s',
        value: ({ need }) => need,
        cell: ({ need, share, heldBy, needHour }) => (
          <span className={need === null || need > share ? 'text-red' : ''} title={`busiest on ${needHour}`}>
            {need === null ? 'too short' : rate(need)}, {rate(share)}
            {heldBy === null ? '' : ` from ${heldBy}`}
          </span>
        ),
      },
      { head: 'Over', kind: 'muted', width: 'whitespace-nowrap', value: ({ link }) => link },
    ],
    [chosen, onChoose],
  );
  return (
    <DataTable
      label="Replications"
      rows={rows}
      keyOf={({ id }) => id}
      columns={columns}
      marked={({ id }) => id === chosen}
    />
  );
}

const bounds: Record<string, string> = { link: 'the line itself', window: 'its round trip', loss: 'lost segments' };

function Links({ rows }: { rows: readonly SiteLinkRow[] }) {
  const { open } = usePlace();
  const columns = useMemo<AnyColumn<SiteLinkRow>[]>(
    () => [
      stateColumn(({ state, slow, lossy }) => {
        if (state === 'down') return 'broken';
        return slow || lossy ? 'leans' : 'stands';
      }),
      { head: 'Link', kind: 'name', width: 'whitespace-nowrap', value: ({ name }) => name },
      { head: 'Between', width: 'whitespace-nowrap', value: ({ sites }) => sites.join(' and ') },
      { head: 'Speed', width: 'whitespace-nowrap', value: ({ speed }) => speed },
      { head: 'Round trip', kind: 'number', unit: 'ms', value: ({ rtt }) => rtt, cell: ({ rtt }) => `${rtt} ms` },
      { head: 'Route', kind: 'number', unit: 'km', value: ({ km }) => km, cell: ({ km }) => (km ? `${km} km` : '–') },
      {
        head: 'Brings through',
        kind: 'number',
        unit: 'B/s',
        value: ({ through }) => Math.round(through),
        cell: ({ through, boundBy, state, slow, lossy }) =>
          state === 'up' ? (
            <span className={slow || lossy ? 'text-red' : ''}>
              {rate(through)}, by {slow ? 'a line that is slow' : bounds[boundBy]}
            </span>
          ) : (
            <span className="text-red">is down</span>
          ),
      },
      {
        head: 'By day, by night',
        kind: 'muted',
        width: 'whitespace-nowrap',
        value: ({ dayCap, nightCap }) => [dayCap, nightCap].map((cap) => (cap === null ? 'all' : rate(cap))).join(', '),
      },
      {
        head: 'Sent now',
        kind: 'number',
        unit: 'B/s',
        value: ({ now }) => Math.round(now),
        cell: ({ now, hosts }) => (
          <span title={hosts > 0 ? `${rate(hosts)} of it by hosts` : undefined}>{rate(now)}</span>
        ),
      },
      { head: 'Replications', kind: 'number', value: ({ replications }) => replications },
      { head: 'Carries', kind: 'muted', value: ({ isls, networks }) => [...isls, ...networks].join(', ') },
      {
        head: 'Deeds',
        deeds: ({ name }) => (
          <button type="button" className="verb" onClick={() => open('site-link.configure', { link: name })}>
            Change
          </button>
        ),
      },
    ],
    [open],
  );
  if (rows.length === 0) return <p className="py-2 text-ink2">No link between sites is noted.</p>;
  return <DataTable label="Links between sites" rows={rows} keyOf={({ id }) => id} columns={columns} />;
}

/** What may be lost of a replication. */
function promisedText({ rpo, mode }: ReplicationRow): string {
  if (rpo !== null) return formatDuration(rpo);
  return mode === 'sync' ? 'nothing' : 'none';
}
