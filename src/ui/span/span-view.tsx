'use client';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { startTransition, useContext, useEffect, useRef, useState } from 'react';
import { formatDecimalBytes } from '@/core/units/bytes';
import { api, type ApiRefusal } from '../api/client';
import { DimensionLine } from '../look/marks';
import { StatePost } from '../look/post';
import { ChooseFile } from '../sheet/read-file';
import { Waiting } from '../sheet/waiting';
import { usePlace } from '../shell/place';
import { isTyping } from '../shell/keys';
import { focusColumn } from './columns-keys';
import { HostsColumn } from './hosts-column';
import { columnsFor, gridColumn, gridTemplate, spanColumns } from './layout';
import { LoadFigures, useByLoad, useLoadAsked } from './by-load';
import { NetworksColumn } from './networks-column';
import { Storey } from './storey';
import { TitleBlock } from './title-block';
import { useInSight } from './use-in-sight';
import { useMarker, type Marker } from './use-marker';
import { useSpan, type DrawnSpan } from './use-span';
import { VisibleColumns } from './visible-columns';
import { Wires } from './wires';

/** The whole chain from drive to host, live, with the marker through all that a selection rests on and carries. */
export function SpanView() {
  return (
    <LoadFigures>
      <Span />
    </LoadFigures>
  );
}

function Span() {
  const arrays = useInSight();
  const hosts = useInSight();
  const { model, error, refetch } = useSpan(arrays.inSight, hosts.inSight);
  const { selection, select } = usePlace();
  const { marker, facts, isGone } = useMarker(selection);
  const wanted = useContext(VisibleColumns);
  const [onlyMarked, setOnlyMarked] = useState(false);
  const [size, setSize] = useState({ width: 1280, height: 500 });
  const frame = useRef<HTMLElement>(null);
  const body = useRef<HTMLDivElement>(null);

  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const observer = new ResizeObserver(() =>
      setSize({ width: element.clientWidth, height: element.clientHeight - 72 }),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return;
      if (/^[1-7]$/.test(event.key) && focusColumn(Number(event.key))) event.preventDefault();
      if (event.key === 'm' && selection) setOnlyMarked((old) => !old);
      if (event.key === '.') document.querySelector<HTMLElement>('#verbs button')?.focus();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [selection]);

  const storeys = useStoreys(model?.arrays.length ?? 0);
  const sparing = (model?.arrays.length ?? 0) > MOST_STOREYS;
  const visible = columnsFor(size.width, wanted);
  const template = gridTemplate(visible);
  const marked = selection !== null;
  const only = onlyMarked && marked;

  return (
    <main className="grid min-h-0 grid-rows-[minmax(0,1fr)_auto]">
      <section
        ref={frame}
        aria-label="Span"
        className="grid min-h-0 min-w-0 grid-rows-[28px_44px_minmax(0,1fr)] bg-paper"
      >
        <Caption
          model={model}
          marked={marked}
          only={only}
          onOnly={() => setOnlyMarked(!onlyMarked)}
          onLift={() => select(null)}
          narrow={size.width < 1000}
        />
        <Heads visible={visible} template={template} model={model} marker={marker} />
        <div
          className="scroller relative min-h-0"
          tabIndex={-1}
          data-marked={marked || undefined}
          onClick={() => marked && select(null)}
        >
          {error && (
            <p className="m-3 border border-red p-3">
              The estate was asked for. {error.message}{' '}
              <button type="button" className="verb" onClick={() => void refetch()}>
                Ask again
              </button>
            </p>
          )}
          {model && model.arrays.length === 0 && <EmptyEstate />}
          {model && model.arrays.length > 0 && (
            <div ref={body} className="relative px-4 pb-2 pl-3">
              <Wires body={body} model={model} marker={marker} />
              <div className="relative z-[1] grid" style={{ gridTemplateColumns: template }}>
                {model.arrays.map(({ head, storey }, k) => (
                  <Storey
                    key={head.id}
                    head={head}
                    array={storey}
                    onSight={arrays.put}
                    row={2 * k + 1}
                    visible={visible}
                    marker={marker}
                    onSelect={select}
                    onlyMarked={only}
                    drawn={sparing || k < storeys}
                    sparing={sparing}
                    volumesHeight={volumesHeight(size.height, model.arrays.length)}
                  />
                ))}
                {visible.includes(6) && (
                  <div
                    className="sticky top-0 self-start pt-[5px]"
                    style={{ gridColumn: gridColumn(visible, 6), gridRow: `1 / ${2 * model.arrays.length + 1}` }}
                  >
                    <NetworksColumn networks={model.networks} marker={marker} onlyMarked={only} onSelect={select} />
                  </div>
                )}
                {visible.includes(7) && (
                  <div
                    className="sticky top-0 self-start"
                    style={{ gridColumn: gridColumn(visible, 7), gridRow: `1 / ${2 * model.arrays.length + 1}` }}
                  >
                    <HostsColumn
                      hosts={model.hosts}
                      marker={marker}
                      onlyMarked={only}
                      height={Math.max(240, size.height - 16)}
                      onSelect={select}
                      onSight={hosts.replace}
                    />
                  </div>
                )}
              </div>
            </div>
          )}
        </div>
      </section>
      {model ? (
        <TitleBlock facts={facts} model={model} gone={isGone && marked} />
      ) : (
        <section aria-label="Selection" className="h-[152px] border-t-[1.5px] border-ink bg-raised" />
      )}
    </main>
  );
}

/** Beyond so many arrays only the storeys near sight are drawn. */
const MOST_STOREYS = 8;

/** How many storeys are drawn: those in sight at once, the others a moment later, so that the first drawing need not wait for them. */
function useStoreys(all: number): number {
  const [drawn, setDrawn] = useState(2);
  useEffect(() => {
    if (drawn >= all) return;
    const timer = setTimeout(() => startTransition(() => setDrawn((count) => count + 2)), 40);
    return () => clearTimeout(timer);
  }, [drawn, all]);
  return drawn;
}

/** How tall a storey's volumes may grow before they scroll: they share the pane, yet never shrink below ten rows. */
const volumesHeight = (pane: number, arrays: number): number =>
  Math.max(260, Math.floor(pane / Math.min(arrays, 2)) - 40);

function Caption({
  model,
  marked,
  only,
  onOnly,
  onLift,
  narrow,
}: {
  model: DrawnSpan | undefined;
  marked: boolean;
  only: boolean;
  onOnly: () => void;
  onLift: () => void;
  narrow: boolean;
}) {
  const [byLoad, turnLoad] = useLoadAsked();
  const sites = [...new Set(model?.arrays.map(({ head }) => head.site))];
  return (
    <div className="flex items-center gap-4 overflow-hidden border-b border-rule px-3 whitespace-nowrap">
      <b className="font-[640]">{sites.length > 0 ? sites.join(', ') : 'Span'}</b>
      <button type="button" className="verb" aria-pressed={only} disabled={!marked} onClick={onOnly}>
        {only ? 'Show all' : 'Marked only'}
      </button>
      <span className="flex items-center gap-1.5">
        <button type="button" className="verb" disabled={!marked} onClick={onLift}>
          Lift marker
        </button>
        <kbd className="key">Esc</kbd>
      </span>
      <button type="button" className={`verb ${byLoad ? 'font-[700]!' : ''}`} aria-pressed={byLoad} onClick={turnLoad}>
        By load
      </button>
      <span className="flex-1" />
      {!narrow && (
        <>
          {protocolKey.map(({ tag, label, dash }) => (
            <span key={tag} className="flex items-center gap-1.5 text-ink2">
              <svg width="24" height="2" aria-hidden="true">
                <path d="M0 1h24" stroke="currentColor" strokeWidth="1.5" strokeDasharray={dash} />
              </svg>
              <span className="tag" data-tag={tag}>
                {tag}
              </span>
              {label}
            </span>
          ))}
          <span className="flex items-center gap-3 border-l border-rule pl-3 text-ink2">
            {(['stands', 'leans', 'broken', 'in work'] as const).map((post) => (
              <span key={post} className="flex items-center gap-1">
                <StatePost post={post} />
                {post}
              </span>
            ))}
          </span>
        </>
      )}
    </div>
  );
}

const protocolKey = [
  { tag: 'FC', label: 'FC', dash: undefined },
  { tag: 'IS', label: 'iSCSI', dash: '6 4' },
  { tag: 'NV', label: 'NVMe/TCP', dash: '1 3' },
] as const;

const totalOf = (model: DrawnSpan | undefined, n: number): number => {
  if (!model) return 0;
  const { totals } = model;
  return [totals.drives, totals.raidGroups, totals.pools, totals.volumes, totals.ports, totals.networks, totals.hosts][
    n - 1
  ]!;
};
const kindsOfColumn = ['drive', 'raidGroup', 'pool', 'volume', 'port', 'network', 'host'] as const;

function Heads({
  visible,
  template,
  model,
  marker,
}: {
  visible: readonly number[];
  template: string;
  model: DrawnSpan | undefined;
  marker: Marker;
}) {
  const byLoad = useByLoad();
  const units = [
    model ? `${formatDecimalBytes(model.totals.raw)} raw` : '',
    'usable, TiB',
    'filled',
    byLoad ? 'IO/s, p95, paths' : 'written, size, paths',
    byLoad ? 'busy' : 'logins',
    'members',
    byLoad ? 'IO/s' : 'paths up',
  ];
  return (
    <div className="relative grid border-b border-rule pr-4 pl-3" style={{ gridTemplateColumns: template }}>
      {visible.map((n) => (
        <div key={n} className="pt-1.5" style={{ gridColumn: gridColumn(visible, n) }}>
          <div className="flex items-baseline justify-between gap-1 overflow-hidden whitespace-nowrap">
            <span className="caps text-ink!">{spanColumns[n - 1]!.label}</span>
            <span className="text-[11px] leading-[14px] text-ink3 [font-stretch:78%]">{units[n - 1]}</span>
          </div>
          <DimensionLine
            total={totalOf(model, n)}
            marked={marker.chain ? marker.chain[kindsOfColumn[n - 1]!].length : null}
          />
        </div>
      ))}
    </div>
  );
}

/** An instance that holds nothing says how to begin. */
function EmptyEstate() {
  const client = useQueryClient();
  const after = { onSuccess: () => client.invalidateQueries() };
  const stock = useMutation<unknown, ApiRefusal, 'demo' | 'bare'>({ mutationFn: api.stock, ...after });
  const cancel = useRef<AbortController | null>(null);
  const load = useMutation<{ rows: number }, ApiRefusal, File>({
    mutationFn: (file) => {
      cancel.current = new AbortController();
      return api.importEstate(file, !file.name.endsWith('.json'), cancel.current.signal);
    },
    ...after,
  });
  const error = stock.error ?? load.error;
  return (
    <div className="grid max-w-[640px] gap-3 p-4">
      <p>
        No array stands here yet. Put up the bare machines of the lab and carve them yourself, begin with the demo, or
        bring an estate that was exported before.
      </p>
      <div className="flex items-center gap-3">
        <button type="button" className="btn solid" disabled={stock.isPending} onClick={() => stock.mutate('bare')}>
          Put up the bare machines
        </button>
        <button type="button" className="btn" disabled={stock.isPending} onClick={() => stock.mutate('demo')}>
          Begin with the demo
        </button>
        {load.isPending ? (
          <Waiting id="estate" words="Importing the estate" onCancel={() => cancel.current?.abort()} />
        ) : (
          <ChooseFile label="Import an estate" accept=".yaml,.yml,.json" onFile={(file) => load.mutate(file)} />
        )}
        {stock.isPending && <span role="status">Putting it up…</span>}
      </div>
      {error && (
        <div role="alert">
          <p className="refusal">
            {error.message} {error.mend}
          </p>
          {error.refusals.slice(1, 6).map((refusal) => (
            <p key={refusal.message} className="refusal">
              {refusal.message}
            </p>
          ))}
        </div>
      )}
    </div>
  );
}
