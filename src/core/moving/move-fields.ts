import { z } from 'zod';
import { type EstateView } from '../estate/estate';
import { byName } from '../operation/draft';
import { folded, pick, several, such } from '../operation/form';
import { type Inquiry } from '../operation/inquiry';
import { flag } from '../operation/params';
import { spareRate } from '../replicate/spare';
import { type Milliseconds } from '../units/duration';
import { parseRate } from '../units/rate';
import { BARRIER } from './choices';
import { openMoves } from './roads';
import { seconds } from './rounds';

export const moveParams = {
  to: z.string().optional().describe('The array it goes to; without it the one it is on'),
  pool: z.string().describe('The pool there'),
  identity: z
    .enum(['kept', 'new'])
    .default('kept')
    .describe('Whether hosts keep their device, or look again and find another one'),
  wavePlan: z.string().optional().describe('The wave plan within whose windows and slots it goes'),
  together: z.string().max(64).optional().describe('Moves under one such name are cut over together'),
  after: z.array(z.string()).default([]).describe('Moves whose copy must be whole before it starts'),
  pauseS: z.coerce.number().positive().max(600).default(4).describe('Most seconds that hosts wait at the cut'),
  cap: z.string().optional().describe('Most bytes a second, such as 100 MiB/s'),
  weight: z.coerce
    .number()
    .positive()
    .max(1000)
    .default(1)
    .describe('Its share of lines and arrays against the others'),
  mode: z.enum(['rounds', 'mirror']).default('rounds').describe('Round after round, or each new write to both sides'),
  leaves: flag.default(false).describe('What cannot go along may stay behind: copies in time, limits, a class'),
  proveDays: z.coerce
    .number()
    .int()
    .min(0)
    .max(365)
    .default(7)
    .describe('Days after which the old copy is erased by itself; 0 for when somebody accepts'),
  notes: z.string().max(1000).optional(),
};
export const moveForm = {
  to: pick('To array'),
  pool: pick('Its pool'),
  identity: 'Identity',
  wavePlan: pick('Wave plan'),
  together: folded(such('Cut over together', 'Wave 1')),
  after: folded(several('After')),
  pauseS: such('Pause at most, s', '4'),
  cap: folded(such('Bytes a second at most', '100 MiB/s')),
  weight: folded('Weight'),
  mode: folded('How'),
  leaves: { label: 'Accept what stays behind', control: 'switch' },
  proveDays: folded('Erase old copy after, days'),
  notes: folded('Notes'),
} as const;

/** Bytes a second that one more move would get, as far as the arrays go: others that are copied there share them. */
export function foreseenRate(view: EstateView, from: string, to: string, cap: number | null): number {
  const share = (array: string) => {
    const busy = openMoves(view).filter(
      (row) =>
        row.state === 'copying' && [row.fromPool, row.toPool].some((id) => view.table('pool').get(id)!.array === array),
    ).length;
    return spareRate(view, array) / (busy + 1);
  };
  return Math.min(cap ?? Infinity, share(from), share(to));
}

/** A cap in bytes a second; null for none. */
export function readCap(asks: Inquiry, text: string | undefined, name: string): number | null {
  if (!text || text.trim() === '' || text.trim().toLowerCase() === 'none') return null;
  const rate = asks.value(parseRate(text), 'cap', { kind: 'move', name });
  if (rate === 0)
    asks.refuse({
      code: 'move-cap-zero',
      field: 'cap',
      subject: { kind: 'move', name },
      message: `${name} would never be copied.`,
      mend: 'Name 1 MiB/s or more, or leave it empty.',
    });
  return rate ?? null;
}

/** Refuses a pause that cutting over alone would not hold. */
export function askPause(asks: Inquiry, pauseMax: Milliseconds, name: string): void {
  if (pauseMax > BARRIER) return;
  asks.refuse({
    code: 'move-pause-below-barrier',
    field: 'pauseS',
    subject: { kind: 'move', name },
    message: `Switching alone takes ${seconds(BARRIER)}; the allowed pause is ${seconds(pauseMax)}.`,
    mend: 'Allow 2 s or more.',
  });
}

export const wavePlanChoices = (view: EstateView) =>
  [...view.table('wavePlan').values()].sort(byName).map(({ name }) => ({ value: name, label: name }));
