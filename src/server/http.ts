import pino from 'pino';
import type { z } from 'zod';
import { trabes, type Trabes } from './instance';
import { Problem } from './problem';

const log = pino({ level: process.env.TRABES_LOG ?? 'warn' });

export const SMALL_BODY = 1 << 20;
export const ESTATE_BODY = 128 << 20;

/** Problem details for HTTP APIs (RFC 9457). */
export function problemResponse({ status, code, message, mend, refusals }: Problem): Response {
  const body = {
    type: `urn:trabes:problem:${code}`,
    title: message,
    status,
    detail: `${message} ${mend}`,
    code,
    mend,
    ...(refusals.length > 0 ? { refusals } : {}),
  };
  return new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/problem+json' } });
}

export const json = (value: unknown, status = 200): Response =>
  new Response(JSON.stringify(value), {
    status,
    headers: { 'content-type': 'application/json', 'cache-control': 'no-store' },
  });

export const text = (value: string, type: string, fileName?: string): Response =>
  new Response(value, {
    headers: {
      'content-type': `${type}; charset=utf-8`,
      ...(fileName ? { 'content-disposition': `attachment; filename="${fileName}"` } : {}),
    },
  });

/** Answers a request; what goes wrong becomes problem details, never a stack trace. */
export async function answer(work: (instance: Trabes) => Response | Promise<Response>): Promise<Response> {
  try {
    return await work(trabes());
  } catch (error) {
    if (Problem.is(error)) return problemResponse(error);
    log.error({ err: error }, 'request failed');
    return problemResponse(
      new Problem(500, 'defect', 'Something went wrong inside the server.', 'Its log says what; please report it.'),
    );
  }
}

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
  let value: unknown;
  try {
    value = JSON.parse(source === '' ? '{}' : source);
  } catch (error) {
    throw new Problem(400, 'broken-json', `The body is no JSON: ${(error as Error).message}.`, 'Correct it there.');
  }
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  const [issue] = result.error.issues;
  throw new Problem(
    400,
    'body-wrong',
    `${issue!.path.join('.') || 'The body'}: ${issue!.message}.`,
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
