'use client';
import { useMemo } from 'react';
import type { PlanRow } from '@/core/protect/subject-view';
import { momentText } from '@/core/units/date';
import { formatDuration, MINUTE } from '@/core/units/duration';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';

/** All plans, what they promise, and what they protect. */
export function PlanTable({ plans, now }: { plans: readonly PlanRow[]; now: number }) {
  const { open } = usePlace();
  const columns = useMemo<AnyColumn<PlanRow>[]>(
    () => [
      stateColumn(({ paused, rpo, gap }) => {
        if (paused) return 'absent';
        return rpo !== null && gap && gap.span > rpo ? 'leans' : 'stands';
      }),
      { head: 'Plan', kind: 'name', value: ({ name }) => name },
      { head: 'Schedules', value: ({ schedules }) => schedules },
      { head: 'Clock', kind: 'muted', value: ({ zone }) => zone },
      {
        head: 'Loses at most',
        kind: 'number',
        unit: 'min',
        value: ({ rpo }) => (rpo === null ? null : rpo / MINUTE),
        cell: ({ rpo }) => (rpo === null ? 'not promised' : formatDuration(rpo)),
      },
      {
        head: 'Largest gap of the year',
        kind: 'number',
        unit: 'min',
        value: ({ gap }) => (gap ? gap.span / MINUTE : null),
        cell: ({ gap, rpo }) =>
          gap === null ? (
            '–'
          ) : (
            <span className={rpo !== null && gap.span > rpo ? 'text-red' : ''}>
              {formatDuration(gap.span)} from {momentText(gap.from)}
            </span>
          ),
      },
      {
        head: 'Next',
        kind: 'number',
        value: ({ next }) => next,
        cell: ({ next, paused }) => {
          if (paused) return 'paused';
          return next === null ? 'never' : `in ${formatDuration(next - now)}`;
        },
      },
      { head: 'Copies', kind: 'number', value: ({ copies }) => copies },
      { head: 'Protects', value: ({ protects }) => protects.join(', ') || 'nothing yet' },
      {
        head: 'Deeds',
        deeds: ({ name, paused }) => (
          <span className="flex gap-3">
            <button type="button" className="verb" onClick={() => open('plan.schedule', { plan: name })}>
              Schedule
            </button>
            <button
              type="button"
              className="verb"
              onClick={() => open('plan.configure', { plan: name, paused: String(!paused) })}
            >
              {paused ? 'Go on' : 'Pause'}
            </button>
            <button type="button" className="verb" onClick={() => open('plan.configure', { plan: name })}>
              Change
            </button>
          </span>
        ),
      },
    ],
    [open, now],
  );
  return (
    <div className="scroller min-h-0 flex-1 px-3 pt-2 pb-4">
      {plans.length === 0 ? (
        <p className="py-2 text-ink2">
          No plan yet.{' '}
          <button type="button" className="verb" onClick={() => open('plan.create')}>
            Make one
          </button>
          : how often copies are made, how long they are kept.
        </p>
      ) : (
        <DataTable label="Plans" rows={plans} keyOf={({ id }) => id} columns={columns} />
      )}
    </div>
  );
}
