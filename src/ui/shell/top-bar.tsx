'use client';
import { useMutation, useQuery } from '@tanstack/react-query';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import { waitsForSecond } from '@/core/change/terms';
import { api } from '../api/client';
import { Sign } from '../look/marks';
import { labTime, useClock } from './clock-context';
import { isTyping } from './keys';
import { FindOrDo } from './find-or-do';
import { usePlace } from './place';
import { useDark } from './use-dark';

const views = [
  { href: '/', label: 'Span' },
  { href: '/capacity', label: 'Capacity' },
  { href: '/fabric', label: 'Fabric' },
  { href: '/protection', label: 'Protection' },
  { href: '/moves', label: 'Moves' },
  { href: '/load', label: 'Load' },
  { href: '/classes', label: 'Classes' },
  { href: '/changes', label: 'Changes' },
  { href: '/findings', label: 'Findings' },
] as const;

const speeds = [
  { speed: 1, label: '1×' },
  { speed: 60, label: '60×' },
  { speed: 600, label: '600×' },
];

export function TopBar({ connected }: { connected: boolean }) {
  const { pathname, visit } = usePlace();
  // A link to the view that is shown begins it anew.
  const anew = (href: string) => (event: React.MouseEvent) => {
    if (href !== pathname || event.ctrlKey || event.metaKey || event.shiftKey) return;
    event.preventDefault();
    visit(href);
  };
  const changes = useQuery({ queryKey: ['changes', 'open'], queryFn: api.openChanges });
  const open =
    changes.data?.items.filter(
      ({ state, run }) =>
        ['draft', 'stopped', 'paused', 'stuck'].includes(state) ||
        (state === 'approved' && run !== null && waitsForSecond(run)),
    ).length ?? 0;
  // The drawing comes first; how much is wrong is counted a moment later.
  const [later, setLater] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLater(true), 1500);
    return () => clearTimeout(timer);
  }, []);
  const findings = useQuery({ queryKey: ['findings', 'counts'], queryFn: () => api.findings({}), enabled: later });
  const wrong = findings.data?.counts.act ?? 0;
  const counts: Record<string, number> = { Changes: open, Findings: wrong };
  return (
    <header className="flex items-stretch border-b-[1.5px] border-ink bg-raised pl-3">
      <Link
        href="/"
        onClick={anew('/')}
        className="flex items-center gap-2 pr-3.5 text-[16px] font-bold [font-stretch:84%]"
      >
        <Sign />
        Trabes
      </Link>
      <nav aria-label="Views" className="flex flex-none items-stretch border-l border-rule px-1">
        {views.map(({ href, label }) => {
          const here = pathname === href;
          return (
            <Link
              key={href}
              href={href}
              onClick={anew(href)}
              aria-current={here ? 'page' : undefined}
              className={`relative flex items-center px-2 [font-stretch:88%] ${here ? 'font-[680] text-ink' : 'text-ink2'}`}
            >
              {label}
              {(counts[label] ?? 0) > 0 && (
                <sup className="ml-0.5 text-[11px] font-[680]" aria-label={`${counts[label]} open`}>
                  {counts[label]}
                </sup>
              )}
              {here && <span className="absolute inset-x-2 -bottom-[1.5px] h-1 bg-ink" />}
            </Link>
          );
        })}
      </nav>
      <FindOrDo />
      <Clock connected={connected} />
      <ThemeSwitch />
    </header>
  );
}

function Clock({ connected }: { connected: boolean }) {
  const heard = useClock();
  const { open, close, sheet } = usePlace();
  const [shown, setShown] = useState<number | null>(null);
  const setSpeed = useMutation({ mutationFn: api.clock });
  const jump = useMutation({ mutationFn: () => api.advance(3600) });
  const speed = heard?.speed ?? 0;

  // Between two words from the server the clock goes on by itself.
  useEffect(() => {
    if (!heard) return;
    const show = () => setShown(heard.now + Math.min(2000, performance.now() - heard.heard) * heard.speed);
    const timer = setInterval(show, 200);
    return () => clearInterval(timer);
  }, [heard]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'p' || event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return;
      setSpeed.mutate(speed === 0 ? 60 : 0);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [setSpeed, speed]);

  const now = shown ?? heard?.now ?? null;
  return (
    <div role="group" aria-label="Lab clock" className="flex flex-none items-center gap-2 border-l border-rule px-2.5">
      <span className="caps">
        {connected || heard === null ? (speed === 0 && heard ? 'Lab, paused' : 'Lab') : 'Lab, no answer'}
      </span>
      <time className="mono text-[12px] font-semibold" suppressHydrationWarning>
        {now === null ? '––– –– ––– ––:––:––' : labTime(now)}
      </time>
      <span className="flex items-center">
        <button
          type="button"
          aria-label="Pause the lab clock"
          aria-pressed={speed === 0}
          title="Pause (p)"
          onClick={() => setSpeed.mutate(0)}
          className={speedClass(speed === 0)}
        >
          <svg width="8" height="10" viewBox="0 0 8 10" aria-hidden="true">
            <path d="M1.5 0v10M6.5 0v10" stroke="currentColor" strokeWidth="2" />
          </svg>
        </button>
        {speeds.map((one) => (
          <button
            key={one.speed}
            type="button"
            aria-pressed={speed === one.speed}
            onClick={() => setSpeed.mutate(one.speed)}
            className={speedClass(speed === one.speed)}
          >
            {one.label}
          </button>
        ))}
      </span>
      <button type="button" className="verb narrow" onClick={() => jump.mutate()} disabled={jump.isPending}>
        Jump 1 h
      </button>
      <button
        type="button"
        className="verb narrow"
        aria-pressed={sheet === 'lab'}
        onClick={() => (sheet === 'lab' ? close() : open('lab'))}
      >
        Faults and traffic
      </button>
    </div>
  );
}

const speedClass = (pressed: boolean) =>
  `flex h-6 min-w-6 items-center justify-center px-1 text-[12px] [font-stretch:84%] cursor-pointer ${pressed ? 'font-bold text-ink shadow-[inset_0_-2px_0_var(--ink)]' : 'text-ink3'}`;

function ThemeSwitch() {
  const { dark, switchPaper } = useDark();
  return (
    <button
      type="button"
      className="narrow flex flex-none cursor-pointer items-center border-l border-rule px-3 text-ink2"
      onClick={switchPaper}
    >
      {dark ? 'Light' : 'Dark'}
    </button>
  );
}
