'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Command } from 'cmdk';
import { useEffect, useRef, useState } from 'react';
import { kindWords } from '@/core/estate/entities';
import type { Told } from '@/core/span/facts-lines';
import { api } from '../api/client';
import { usePlace } from './place';
import { fieldsByName, tradeWords } from './trade-words';
import { useDark } from './use-dark';
import { isTyping } from './keys';

interface Deed {
  label: string;
  hint: string;
  /** What else it may be called. */
  words?: string;
  run: () => void;
}

/** One field for both: finds things by name, IQN, NAA name, address or slot, and starts whatever can be done by typing its words. */
export function FindOrDo() {
  const { selection, open, openStep, go, visit } = usePlace();
  const { dark, switchPaper } = useDark();
  const [text, setText] = useState('');
  const [shown, setShown] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const operations = useQuery({ queryKey: ['operations'], queryFn: api.operations, staleTime: Infinity });
  const hits = useQuery({
    queryKey: ['search', text],
    queryFn: () => api.search(text),
    enabled: text.trim() !== '',
    staleTime: 2000,
  });

  const client = useQueryClient();
  /** What is marked is filled in, as its own verbs would: those of the selection tell how. */
  const start = (kind: string) => {
    const facts = selection && client.getQueryData<{ facts: Told }>(['selection', selection.kind, selection.id])?.facts;
    open(kind, facts?.verbs.find((verb) => verb.do === kind)?.params ?? {});
  };

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== '/' || isTyping(event.target)) return;
      event.preventDefault();
      input.current?.focus();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);

  const deeds: Deed[] = [
    ...(operations.data?.items ?? []).map(({ kind, verb, summary }) => ({
      label: verb,
      hint: summary,
      words: tradeWords(kind),
      run: () => start(kind),
    })),
    ...fieldsByName.map(({ label, hint, do: kind, field }) => ({
      label,
      hint,
      run: () => openStep({ label, do: kind, params: {}, field }),
    })),
    { label: 'Import a list of hosts', hint: 'A CSV file, reviewed before it runs.', run: () => open('hosts') },
    {
      label: 'Import aliases and zones',
      hint: 'CSV or JSON, reviewed before it runs.',
      run: () => open('zoning-file'),
    },
    {
      label: 'Import schedules from a calendar',
      hint: 'iCalendar, reviewed before it runs.',
      run: () => open('calendar'),
    },
    {
      label: 'What if something fails',
      hint: 'Tick parts and see who loses what.',
      run: () => open('what-if', { failed: [] }),
    },
    { label: 'Merge check', hint: 'What would happen if a link joined two fabrics.', run: () => open('merge') },
    { label: 'Open a change file', hint: 'YAML, previewed before it runs.', run: () => open('file') },
    {
      label: 'Export the estate as YAML',
      hint: 'A file that an empty instance takes in.',
      run: () => window.location.assign('/api/v1/estate?format=yaml'),
    },
    {
      label: 'Export the estate as JSON',
      hint: 'The same, for scripts.',
      run: () => window.location.assign('/api/v1/estate'),
    },
    { label: 'Faults and traffic', hint: 'Break and mend parts of the lab.', run: () => open('lab') },
    {
      label: 'Review the draft',
      hint: 'What the tray holds.',
      run: () => void api.tray().then(({ change }) => change && open('change', { id: change.id })),
    },
    { label: 'List of changes', hint: 'What was prepared, run and undone.', run: () => visit('/changes') },
    {
      label: dark ? 'Light drawing' : 'Dark drawing',
      hint: 'The other paper.',
      run: switchPaper,
    },
  ];
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  // Deeds whose name holds all the words come before those that only speak of them.
  const rank = ({ label, hint, words: others = '' }: Deed): number => {
    const holds = (where: string) => words.every((word) => where.toLowerCase().includes(word));
    if (label.toLowerCase().startsWith(text.trim().toLowerCase())) return 0;
    // The less of what is written the words stand in, the nearer they are.
    const place = [label, `${label} ${others}`, `${label} ${others} ${hint}`].findIndex(holds);
    return place < 0 ? 4 : 1 + place;
  };
  const offered = deeds.filter((deed) => rank(deed) < 4).sort((a, b) => rank(a) - rank(b));

  const found = text.trim() === '' ? [] : (hits.data?.items ?? []);
  const show = (hit: (typeof found)[number]) => {
    if (hit.kind === 'alias' || hit.kind === 'zone' || hit.kind === 'zoneSet')
      visit('/fabric', { part: 'zones', find: hit.name });
    else if (hit.kind === 'workload') visit('/protection', { of: hit.id });
    else if (hit.kind === 'plan') visit('/protection', { part: 'plans' });
    else if (hit.kind === 'replication') visit('/protection', { part: 'elsewhere', replication: hit.id });
    else if (hit.kind === 'drill') visit('/protection', { part: 'elsewhere', drill: hit.id });
    else if (hit.kind === 'siteLink' || hit.kind === 'witness') visit('/protection', { part: 'elsewhere' });
    else if (hit.kind === 'loadLimit') visit('/load', { part: 'limits' });
    else if (hit.kind === 'tierPolicy') visit('/load', { part: 'heat' });
    else if (hit.kind === 'serviceClass') visit('/classes', { class: hit.name });
    else if (hit.kind === 'keptRequest') visit('/classes', { request: hit.name });
    else if (hit.kind === 'allotment') visit('/classes', { consumer: hit.id });
    else if (hit.kind === 'move') visit('/moves', { of: hit.id });
    else if (hit.kind === 'wavePlan') visit('/moves');
    else if (hit.kind === 'outsideLun') visit('/moves', { part: 'outside', lun: hit.id });
    else if (hit.kind === 'snapshot') visit('/protection', hit.shows ?? {});
    else {
      const marked = hit.kind === 'cluster' || hit.kind === 'machine' ? hit.marks : { kind: hit.kind, id: hit.id };
      if (marked) go({ selection: marked }, '/');
    }
  };
  const done = () => {
    setText('');
    setShown(false);
    input.current?.blur();
  };
  /** Whoever presses Enter before the answer is there means the first of what will come. */
  const enterFirst = async () => {
    const { items } = await client.fetchQuery({ queryKey: ['search', text], queryFn: () => api.search(text) });
    if (items[0]) show(items[0]);
    else offered[0]?.run();
    done();
  };
  const heading = 'caps block px-3 pt-2 pb-1';
  const row =
    'flex cursor-pointer items-baseline gap-3 px-3 py-1 data-[selected=true]:bg-ground data-[selected=true]:shadow-[inset_3px_0_0_var(--ink)]';

  return (
    <Command
      shouldFilter={false}
      label="Find or do"
      className="relative flex min-w-[120px] flex-1 border-l border-rule"
    >
      <label className="flex flex-1 items-center gap-2 overflow-hidden px-2.5">
        <kbd className="key">/</kbd>
        <Command.Input
          ref={input}
          value={text}
          onValueChange={(value) => {
            setText(value);
            setShown(true);
          }}
          onFocus={() => setShown(true)}
          onBlur={() => setShown(false)}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && text.trim() !== '' && hits.isFetching) {
              event.preventDefault();
              event.stopPropagation();
              void enterFirst();
              return;
            }
            if (event.key !== 'Escape') return;
            event.stopPropagation();
            done();
          }}
          placeholder="Find or do"
          aria-label="Find or do"
          className="h-full min-w-0 flex-1 bg-transparent outline-none placeholder:text-ink3"
        />
      </label>
      <div
        hidden={!shown}
        onMouseDown={(event) => event.preventDefault()}
        className="scroller absolute top-full left-0 z-40 max-h-[70vh] w-[min(620px,90vw)] border border-ink bg-raised pb-2"
      >
        <Command.List>
          {found.length > 0 && (
            <Command.Group heading={<span className={heading}>Find</span>}>
              {found.map((hit) => (
                <Command.Item
                  key={hit.id}
                  value={hit.id}
                  className={row}
                  onSelect={() => {
                    show(hit);
                    done();
                  }}
                >
                  <span className="name">{hit.name}</span>
                  <span className="narrow text-ink2">{kindWords[hit.kind]}</span>
                  <span className="narrow ml-auto truncate text-ink3">{hit.where}</span>
                </Command.Item>
              ))}
            </Command.Group>
          )}
          <Command.Group
            hidden={offered.length === 0}
            heading={offered.length > 0 && <span className={heading}>Do</span>}
          >
            {offered.map((deed) => (
              <Command.Item
                key={deed.label}
                value={deed.label}
                className={row}
                onSelect={() => {
                  deed.run();
                  done();
                }}
              >
                <span className="name">{deed.label}</span>
                <span className="narrow ml-auto truncate text-ink3">{deed.hint}</span>
              </Command.Item>
            ))}
          </Command.Group>
          {offered.length === 0 && hits.data?.items.length === 0 && (
            <p className="px-3 pt-3 text-ink2">
              Nothing is called {text}. Names, IQNs, NAA names, serials, addresses, mount points, FCIDs and slots such
              as 1:3 are looked through.
            </p>
          )}
        </Command.List>
      </div>
    </Command>
  );
}
