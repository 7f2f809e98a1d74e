'use client';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { FabricModel } from '@/core/trace/matrix';
import { api } from '../api/client';
import { Tag } from '../look/marks';
import { useParam, usePlace } from '../shell/place';
import { LoadTables } from './load-tables';
import { LoginTable } from './login-table';
import { MeetingMatrix } from './meeting-matrix';
import { NetworkParts } from './network-parts';
import { Topology } from './topology';
import { ZoneLists } from './zone-lists';

const parts = [
  { key: 'topology', label: 'Topology' },
  { key: 'matrix', label: 'Who meets whom' },
  { key: 'zones', label: 'Zones' },
  { key: 'logins', label: 'Logins' },
  { key: 'networks', label: 'Networks' },
  { key: 'load', label: 'Load' },
] as const;
const ofFabrics: readonly Part[] = ['matrix', 'zones', 'logins'];
type Part = (typeof parts)[number]['key'];

/** Fabrics: who meets whom and by which zone, what is defined and what is active, and who has logged in where. */
export function FabricView() {
  const [find, setFind] = useParam('find');
  const fabrics = useQuery({
    queryKey: ['fabric', find],
    queryFn: () => api.fabric(find),
    placeholderData: keepPreviousData,
  });
  const { open, sheet } = usePlace();
  const [laid] = useState(sheet === 'trace' || sheet === 'what-if');
  // A trace or a what-if is laid over the topology: a link that opens one shows it there.
  const [shown, setPart] = useParam('part');
  const part = parts.find(({ key }) => key === shown)?.key ?? (laid ? 'topology' : 'matrix');
  const items = fabrics.data?.items ?? [];
  return (
    <main className="flex min-h-0 min-w-0 flex-col bg-paper">
      <div className="flex flex-none flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-3 py-1 whitespace-nowrap">
        <h1 className="font-[640]">Fabric</h1>
        <div role="group" aria-label="What is shown" className="flex gap-3">
          {parts.map(({ key, label }) => (
            <button
              key={key}
              type="button"
              aria-pressed={part === key}
              className={`verb ${part === key ? 'font-[700]' : 'text-ink2'}`}
              onClick={() => setPart(key)}
            >
              {label}
            </button>
          ))}
        </div>
        <input
          className="field h-6! w-[150px]! flex-none"
          value={find}
          onChange={(event) => setFind(event.target.value)}
          placeholder="host, port name, zone"
          aria-label="Find in the fabrics"
        />
        <span className="flex-1" />
        <span className="num text-ink2">{summary(items)}</span>
        <button type="button" className="verb" onClick={() => open('what-if', { failed: [] })}>
          What if
        </button>
        <button type="button" className="verb" onClick={() => open('zoning.join')}>
          Join a host
        </button>
        <button type="button" className="verb" onClick={() => open('zone.create')}>
          Make a zone
        </button>
      </div>
      <div className="scroller min-h-0 min-w-0 flex-1 px-3 pb-4">
        {fabrics.error && (
          <p className="refusal mt-2">
            The fabrics were asked for. {fabrics.error.message}{' '}
            <button type="button" className="verb" onClick={() => void fabrics.refetch()}>
              Ask again
            </button>
          </p>
        )}
        {fabrics.data && items.length === 0 && <p className="py-3 text-ink2">No fabric is part of this estate.</p>}
        {part === 'topology' && <Topology />}
        {part === 'networks' && <NetworkParts />}
        {part === 'load' && <LoadTables />}
        {part === 'zones' && <ZoningFiles />}
        {(ofFabrics.includes(part) ? items : []).map((fabric) => (
          <section key={fabric.id} aria-label={`Fabric ${fabric.name}`} className="pt-3">
            <FabricHead fabric={fabric} />
            {part === 'matrix' && <MeetingMatrix fabric={fabric} />}
            {part === 'zones' && <ZoneLists fabric={fabric} />}
            {part === 'logins' && <LoginTable fabric={fabric} />}
            <LeftOut fabric={fabric} part={part} />
          </section>
        ))}
        {part === 'matrix' && items.length > 0 && <MatrixKey />}
      </div>
    </main>
  );
}

function summary(items: readonly FabricModel[]): string {
  const count = (of: keyof FabricModel['counts']) => items.reduce((sum, fabric) => sum + fabric.counts[of], 0);
  return `${count('initiators')} initiators, ${count('targets')} target ports, ${count('zones')} zones`;
}

/** What of a large fabric is left out, and how to come by it. */
function LeftOut({ fabric, part }: { fabric: FabricModel; part: Part }) {
  const { counts } = fabric;
  const [shown, all, what] =
    part === 'zones'
      ? [fabric.zones.length, counts.zonesFound, 'zones']
      : [fabric.logins.filter((login) => login.role === 'initiator').length, counts.found, 'initiators'];
  return shown < all ? (
    <p className="pt-1 text-ink2">
      {shown} of {all} {what}; find others by a word of theirs above.
    </p>
  ) : null;
}

function FabricHead({ fabric }: { fabric: FabricModel }) {
  const { open } = usePlace();
  const switches = fabric.switches.map((row) => `${row.name} (${row.site}${row.up ? '' : ', down'})`).join(', ');
  const links = fabric.links.filter((link) => link.up).length;
  return (
    <div className="flex items-baseline gap-3 overflow-hidden border-b border-ink pb-1 whitespace-nowrap">
      <h2 className="flex items-center gap-2 font-[680]">
        Fabric {fabric.name} <Tag tag="FC" />
      </h2>
      <span className="text-ink2">
        {switches}; {links} of {fabric.links.length} inter-switch links; active set {fabric.activeSet ?? 'none'}
      </span>
      <span className="flex-1" />
      {fabric.waiting.length > 0 && fabric.zoneSet && (
        <button
          type="button"
          className="verb"
          onClick={() => open('zone-set.activate', { fabric: fabric.name, zoneSet: fabric.zoneSet })}
        >
          Activate {fabric.waiting.length} {fabric.waiting.length === 1 ? 'change' : 'changes'}
        </button>
      )}
      <button type="button" className="verb" onClick={() => open('fabric.configure', { fabric: fabric.name })}>
        Change<span className="sr-only"> fabric {fabric.name}</span>
      </button>
    </div>
  );
}

/** Aliases and zones leave and come as files. */
function ZoningFiles() {
  const { open } = usePlace();
  return (
    <p className="flex flex-wrap items-baseline gap-4 pt-2">
      <a className="verb" href="/api/v1/zoning?format=csv" download>
        Export as CSV
      </a>
      <a className="verb" href="/api/v1/zoning?format=json" download>
        Export as JSON
      </a>
      <button type="button" className="verb" onClick={() => open('zoning-file')}>
        Import aliases and zones
      </button>
      <button type="button" className="verb" onClick={() => open('merge')}>
        Merge check
      </button>
    </p>
  );
}

function MatrixKey() {
  return (
    <p className="flex flex-wrap gap-x-6 pt-3 text-ink2">
      <span className="flex items-center gap-2">
        <span className="zone-box" data-state="joined">
          1
        </span>
        joined by so many zones, logged in
      </span>
      <span className="flex items-center gap-2 text-red">
        <span className="zone-box" data-state="missing">
          !
        </span>
        should meet, does not
      </span>
      <span className="flex items-center gap-2">
        <span className="zone-box" data-state="free" />
        could be joined
      </span>
    </p>
  );
}
