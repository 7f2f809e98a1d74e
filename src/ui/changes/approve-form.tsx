'use client';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useId, useState } from 'react';
import type { ChangeView } from '@/core/change/record';
import { weekdays, type Weekday } from '@/core/schedule/rule';
import { dayWords, openAt } from '@/core/schedule/hours';
import { dateText, momentText } from '@/core/units/date';
import { formatDuration, HOUR } from '@/core/units/duration';
import { api, type ApiRefusal } from '../api/client';
import { useClock } from '../shell/clock-context';

/** Who says that a draft may run by itself, within which hours, what becomes of it when a step fails, and before which a person is asked. */
export function ApproveForm({ change, seen, onDone }: { change: ChangeView; seen: number; onDone: () => void }) {
  const client = useQueryClient();
  const clock = useClock();
  const [by, setBy] = useState('');
  // What cannot be taken back is looked at by two.
  const final = (change.preview?.destroys.length ?? 0) > 0;
  const [second, setSecond] = useState(final);
  const [rhythm, setRhythm] = useState('');
  const [zone, setZone] = useState('UTC');
  const [from, setFrom] = useState('22');
  const [until, setUntil] = useState('5');
  const [days, setDays] = useState<Weekday[]>([]);
  const [onFailure, setOnFailure] = useState<'undo' | 'stop'>('undo');
  const [confirm, setConfirm] = useState<number[]>([]);
  const [waits, setWaits] = useState('12');
  const [mail, setMail] = useState('');
  const hour = (text: string) => (text.trim() === '' ? null : Number(text));
  const approve = useMutation<ChangeView, ApiRefusal>({
    mutationFn: () =>
      api.approve(
        { id: change.id, revision: seen },
        {
          approvedBy: by,
          second,
          startAt: null,
          begins: rhythm,
          zone,
          fromHour: hour(from),
          untilHour: hour(until),
          days,
          onFailure,
          confirm,
          waits: Math.round(Number(waits) * HOUR),
          mail,
        },
      ),
    onSuccess: () => {
      onDone();
      return client.invalidateQueries();
    },
  });
  const begins = useQuery<{ at: number | null }, ApiRefusal>({
    queryKey: ['begins', rhythm.trim(), zone.trim()],
    queryFn: () => api.begins(rhythm, zone),
    retry: false,
    placeholderData: keepPreviousData,
  });
  const ofZone = begins.error?.code === 'schedule-zone-unknown';
  const startAt = begins.data?.at ?? null;
  const hours = { from: hour(from), until: hour(until), days };
  const whole = [hours.from, hours.until].every((one) => one !== null && one >= 0 && one <= 23);
  const open = clock && whole ? openAt(hours, Math.max(clock.now, startAt ?? 0)) : null;
  const takes = change.preview?.takes ?? 0;
  const toggle = <T,>(list: readonly T[], one: T) =>
    list.includes(one) ? list.filter((other) => other !== one) : [...list, one];
  return (
    <section aria-label="Approve for later" className="mt-3 border border-ink bg-raised px-3 py-2">
      <h2 className="font-[640]">Approve for later</h2>
      <p className="text-ink2">
        What is approved is what runs: should anything that it was worked out from change until then, it comes back
        here.
      </p>
      <div className="mt-2 grid grid-cols-[132px_minmax(0,1fr)] items-center gap-x-3 gap-y-1.5">
        <Text label="Approved by" value={by} onChange={setBy} says="" placeholder="M. Okkema" />
        <span className="caps">Second person</span>
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={second} onChange={() => setSecond(!second)} />
          <span>
            somebody else must approve it too before it begins
            {final && <span className="text-ink2">: it cannot be taken back whole</span>}
          </span>
        </label>
        <Text
          label="Begins"
          value={rhythm}
          onChange={setRhythm}
          says={
            startAt === null
              ? 'A day, or a rhythm such as SU 02:00; empty for the next window.'
              : `Not before ${momentText(startAt)} UTC.`
          }
          wrong={begins.error && !ofZone ? `${begins.error.message} ${begins.error.mend}` : null}
          placeholder={clock ? `${dateText(clock.now)} 22:00` : ''}
        />
        <Text
          label="Clock of"
          value={zone}
          onChange={setZone}
          says="Such as Europe/Oslo, with its summer time."
          wrong={begins.error && ofZone ? `${begins.error.message} ${begins.error.mend}` : null}
        />
        <Text label="From hour, UTC" value={from} onChange={setFrom} says="" />
        <Text
          label="Until hour, UTC"
          value={until}
          onChange={setUntil}
          says={
            open
              ? `Next window ${momentText(open.from)} to ${momentText(open.to!)}; the change takes ${formatDuration(takes)}.`
              : 'Both empty: as soon as it is approved.'
          }
        />
        <span className="caps">Days</span>
        <span className="flex flex-wrap gap-3" role="group" aria-label="Days">
          {weekdays.map((day) => (
            <label key={day} className="flex items-center gap-1">
              <input type="checkbox" checked={days.includes(day)} onChange={() => setDays(toggle(days, day))} />
              {dayWords[day]}
            </label>
          ))}
          <span className="text-ink2">none ticked: every day</span>
        </span>
        <span className="caps">When a step fails</span>
        <span className="flex flex-wrap gap-4" role="radiogroup" aria-label="When a step fails">
          {(
            [
              ['undo', 'take back what was done'],
              ['stop', 'stop where it stands'],
            ] as const
          ).map(([one, words]) => (
            <label key={one} className="flex items-center gap-1">
              <input type="radio" name="on-failure" checked={onFailure === one} onChange={() => setOnFailure(one)} />
              {words}
            </label>
          ))}
        </span>
        <span className="caps self-start pt-0.5">Ask a person before</span>
        <span className="grid gap-0.5" role="group" aria-label="Ask a person before">
          {change.operations.map((operation, k) => {
            const title = change.preview?.steps.find((step) => step.operation === k)?.title ?? operation.do;
            return (
              <label key={k} className="flex min-w-0 items-baseline gap-1.5">
                <input type="checkbox" checked={confirm.includes(k)} onChange={() => setConfirm(toggle(confirm, k))} />
                <span className="min-w-0 truncate" title={title}>
                  {k + 1} {title}
                </span>
              </label>
            );
          })}
        </span>
        {confirm.length > 0 && (
          <Text label="Answer within, h" value={waits} onChange={setWaits} says="No answer by then counts as no." />
        )}
        <Text label="Write to" value={mail} onChange={setMail} says="" placeholder="storage desk" />
      </div>
      <div className="mt-2 flex items-center gap-4">
        {approve.error ? (
          <span role="alert" className="min-w-0 flex-1 text-red">
            {approve.error.message} {approve.error.mend}
          </span>
        ) : (
          <span className="flex-1" />
        )}
        <button type="button" className="verb" onClick={onDone}>
          Not now
        </button>
        <button
          type="button"
          className="btn solid"
          disabled={by.trim() === '' || begins.error !== null || approve.isPending}
          onClick={() => approve.mutate()}
        >
          Approve
        </button>
      </div>
    </section>
  );
}

function Text({
  label,
  value,
  onChange,
  says,
  wrong = null,
  placeholder = '',
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  says: string;
  /** Why it cannot be, in place of what it says. */
  wrong?: string | null;
  placeholder?: string;
}) {
  const id = useId();
  return (
    <>
      <label className="caps" htmlFor={id}>
        {label}
      </label>
      <span className="grid grid-cols-[160px_minmax(0,1fr)] items-center gap-3">
        <input
          id={id}
          className="field"
          value={value}
          placeholder={placeholder}
          onChange={(event) => onChange(event.target.value)}
        />
        <span className={wrong === null ? 'text-ink2' : 'text-red'} role={wrong === null ? undefined : 'alert'}>
          {wrong ?? says}
        </span>
      </span>
    </>
  );
}
