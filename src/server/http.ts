import { headers } from 'next/headers';
import pino from 'pino';
import type { z } from 'zod';
import { misfit } from '@/core/operation/misfit';
import { boundsOfJson, unfitText } from '@/formats/bounds';
import { isBusy, isDiskFull } from '@/store/database';
import { turnedAway } from './guard';
import { trabes, type Trabes } from './instance';
import type { ImportReport } from '@/core/change/record';
import { Problem, refusedProblem } from './problem';
import { problemResponse } from './problem-response';
import type { Watching } from './slices';

const log = pino({ level: process.env.TRABES_LOG ?? 'warn' });

export const SMALL_BODY = 1 << 20;

export const json = (value: unknown, status = 200): Response =>
  new Response(JSON.stringify(value), {
    status,
    headers: { 'content-type': 'application/json', 'cache-control': 'no-store' },
  });

/** What is JSON already. */
export const jsonText = (value: string): Response =>
  new Response(value, { headers: { 'content-type': 'application/json', 'cache-control': 'no-store' } });

export const text = (value: string, type: string, fileName?: string): Response =>
  new Response(value, {
    headers: {
      'content-type': `${type}; charset=utf-8`,
      ...(fileName ? { 'content-disposition': `attachment; filename="${fileName}"` } : {}),
    },
  });

/** What became of a list: a change with what was taken, nothing to do, or a problem where no line could be taken. */
export function reported(report: ImportReport): Response {
  if (report.taken === 0)
    throw refusedProblem(
      report.lines.map((line) => ({
        code: 'line-refused',
        subject: { kind: 'line', name: `${line.line}` },
        message: `Line ${line.line}${line.name ? ` (${line.name})` : ''}: ${line.said}`,
        mend: 'Correct it in the list.',
      })),
    );
  return json(report, report.change ? 201 : 200);
}

/** Answers a request of those who may ask; what goes wrong becomes problem details, never a stack trace. */
export async function answer(work: (instance: Trabes) => Response | Promise<Response>): Promise<Response> {
  try {
    const away = turnedAway(await headers());
    if (away) return problemResponse(away);
    const response = await work(trabes());
    response.headers.set('x-content-type-options', 'nosniff');
    return response;
  } catch (error) {
    return problemResponse(problemFor(error));
  }
}

function problemFor(error: unknown): Problem {
  if (Problem.is(error)) return error;
  if (isDiskFull(error))
    return new Problem(
      507,
      'disk-full',
      'The disk is full: nothing of this was kept.',
      'Make room, then ask again; what waits in the lab goes on by itself.',
    );
  if (isBusy(error))
    return new Problem(
      503,
      'estate-coming-in',
      'An estate is being taken in just now: nothing of this was kept.',
      'Ask again when it is there.',
    );
  log.error({ err: error }, 'request failed');
  return new Problem(500, 'defect', 'Something went wrong inside the server.', 'Its log says what; please report it.');
}

/** A request that is taken back ends the work it asked for; screens are told how far long work is. */
export const watching = (request: Request): Watching => ({
  signal: request.signal,
  progress: ({ done, of }) => trabes().plant.events.emit({ type: 'work', id: 'plan', what: 'Planning', done, of }),
});

/** The revision of a draft that a request has seen, from If-Match; null where it does not say. */
export function seenRevision(request: Request): number | null {
  const given = request.headers.get('if-match');
  if (given === null || given.trim() === '*') return null;
  const read = /^(?:W\/)?"[^"]*\.(\d+)"$/.exec(given.trim());
  return read ? Number(read[1]) : -1;
}

/** A draft's revision as a header that If-Match gives back. */
export const tagged = (response: Response, { id, revision }: { id: string; revision: number }): Response => {
  response.headers.set('etag', `"${id}.${revision}"`);
  return response;
};

/** The body as text, refused as soon as it grows beyond the limit. */
export async function bodyText(request: Request, limit = SMALL_BODY): Promise<string> {
  const tooLarge = () =>
    new Problem(413, 'body-too-large', `The body is larger than ${limit} bytes.`, 'Send less at once.');
  if (Number(request.headers.get('content-length') ?? 0) > limit) throw tooLarge();
  if (!request.body) return '';
  const chunks: Uint8Array[] = [];
  let size = 0;
  const reader = request.body.getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    size += value.byteLength;
    if (size > limit) {
      await reader.cancel();
      throw tooLarge();
    }
    chunks.push(value);
  }
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(Buffer.concat(chunks));
  } catch {
    throw new Problem(400, 'not-utf8', 'The body is not UTF-8 text.', 'Send it as UTF-8.');
  }
}

/** The body as JSON that a schema accepts. */
export async function bodyJson<T>(request: Request, schema: z.ZodType<T>): Promise<T> {
  const source = await bodyText(request);
  const unbounded = boundsOfJson(source);
  if (unbounded) throw new Problem(400, unbounded.code, unbounded.message, unbounded.mend);
  let value: unknown;
  try {
    value = JSON.parse(source === '' ? '{}' : source);
  } catch (error) {
    throw new Problem(400, 'broken-json', `The body is no JSON: ${(error as Error).message}.`, 'Correct it there.');
  }
  const unfit = unfitText(value);
  if (unfit !== null)
    throw new Problem(
      400,
      'unfit-text',
      `${unfit} holds a character that no text may have.`,
      'Take control characters out.',
    );
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  const [issue] = result.error.issues;
  throw new Problem(
    400,
    'body-wrong',
    misfit(issue!, value).message,
    'The API description at /api/v1/openapi.json says what belongs there.',
  );
}

export const isYaml = (request: Request): boolean => /yaml/.test(request.headers.get('content-type') ?? '');

/** A whole number in the query, within bounds. */
export function queryNumber(url: URL, name: string, fallback: number, most: number): number {
  const given = url.searchParams.get(name);
  if (given === null) return fallback;
  const value = Number(given);
  if (!Number.isInteger(value) || value < 0 || value > most)
    throw new Problem(400, 'query-wrong', `${name}=${given} is no number from 0 to ${most}.`, 'Correct it.');
  return value;
}
