import { z } from 'zod';
import { spans } from '@/core/performance/answers';
import { Problem } from './problem';

const seconds = z.coerce.number().refine((one) => (spans as readonly number[]).includes(one));

/** The span that is asked for in seconds, and its end; 24 hours up to now unless said. */
export function askedSpan(asked: URLSearchParams): { seconds: number; until: number | null } {
  const found = seconds.safeParse(asked.get('span') ?? 86_400);
  if (!found.success)
    throw new Problem(
      400,
      'span-unknown',
      `A span of ${asked.get('span')} s is not kept.`,
      `Ask for one of ${spans.join(', ')} s.`,
    );
  return { seconds: found.data, until: askedMoment(asked, 'until') };
}

/** A moment of the lab's time in milliseconds, or null where none is asked for. */
export function askedMoment(asked: URLSearchParams, name: string): number | null {
  const text = asked.get(name);
  if (text === null || text === '') return null;
  const value = Number(text);
  if (!Number.isFinite(value) || value < 0)
    throw new Problem(400, 'moment-unreadable', `${text} is no moment.`, 'Write milliseconds since 1970.');
  return value;
}

export const effectBody = z.object({
  volume: z.string().min(1).max(64),
  neighbour: z.string().max(64).nullable().default(null),
  replaces: z.string().max(64).nullable().default(null),
  seconds: seconds.refine((one) => one <= 86_400, 'no more than a day is worked out again'),
  until: z.number().min(0).nullable().default(null),
  variants: z
    .array(
      z.object({
        label: z.string().max(80),
        iops: z.number().positive().max(1e9).nullable(),
        burst: z.number().int().min(0).max(1e9).default(0),
      }),
    )
    .max(4),
});

export const proposeBody = z.object({
  x: z.string().min(1).max(64),
  y: z.string().min(1).max(64),
  targetS: z.number().positive().max(60),
  seconds: seconds.default(86_400),
});

export const queueBody = z.object({
  x: z.string().min(1).max(64),
  y: z.string().min(1).max(64),
  iops: z.number().positive().max(1e9),
  at: z.number().min(0),
});

/** Most I/Os that are carried one by one in one go, and most characters of a trace. */
const MOST_IOS = 10_000_000;
const MOST_TRACE = 64 * 2 ** 20;
export const simulateBody = z.object({
  x: z.string().max(64).nullable().default(null),
  iops: z.number().positive().max(1e9).nullable().default(null),
  y: z.string().min(1).max(64),
  at: z.number().min(0),
  ios: z.number().int().min(1000).max(MOST_IOS).default(200_000),
  seed: z.number().int().min(0).max(1e9).default(1),
  trace: z.string().max(MOST_TRACE).nullable().default(null),
});

export const whatIfLoadBody = z.object({
  lost: z.string().max(64).optional(),
  grows: z.object({ workload: z.string().max(64), factor: z.number().min(0).max(1000) }).optional(),
  moves: z.object({ volume: z.string().max(64), pool: z.string().max(64) }).optional(),
});
