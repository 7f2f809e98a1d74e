import { z } from 'zod';
import { bodyJson, bodyText, isYaml, queryNumber } from './http';
import { Problem, refusedProblem } from './problem';
import { problemResponse } from './problem-response';
import { readSettings } from './settings';

const post = (body: BodyInit | null, headers: Record<string, string> = {}) =>
  new Request('http://127.0.0.1/', { method: 'POST', body, headers });
const codeOf = async (work: Promise<unknown>): Promise<[number, string]> => {
  try {
    await work;
  } catch (error) {
    if (Problem.is(error)) return [error.status, error.code];
    throw error;
  }
  return [200, 'none'];
};

describe('bodies', () => {
  test('are read up to the limit, said or found', async () => {
    expect(await bodyText(post('Größe'))).toBe('Größe');
    expect(await bodyText(new Request('http://127.0.0.1/'))).toBe('');
    expect(await codeOf(bodyText(post('12345678'), 4))).toEqual([413, 'body-too-large']);
    expect(await codeOf(bodyText(post('1', { 'content-length': '99' }), 4))).toEqual([413, 'body-too-large']);
    const endless = new ReadableStream<Uint8Array>({ pull: (controller) => controller.enqueue(new Uint8Array(1024)) });
    expect(
      await codeOf(
        bodyText(
          new Request('http://127.0.0.1/', { method: 'POST', body: endless, duplex: 'half' } as RequestInit),
          10_000,
        ),
      ),
    ).toEqual([413, 'body-too-large']);
  });
  test('must be UTF-8, and JSON that fits', async () => {
    expect(await codeOf(bodyText(post(new Uint8Array([0xc3, 0x28]))))).toEqual([400, 'not-utf8']);
    expect(await codeOf(bodyJson(post('{'), z.object({})))).toEqual([400, 'broken-json']);
    expect(await codeOf(bodyJson(post('{"a":1}'), z.strictObject({})))).toEqual([400, 'body-wrong']);
    expect(await bodyJson(post(''), z.object({ a: z.number().default(3) }))).toEqual({ a: 3 });
  });
  test('say whether they are YAML', async () => {
    expect(isYaml(post('', { 'content-type': 'application/x-yaml' }))).toBe(true);
    expect(isYaml(post('', { 'content-type': 'application/json' }))).toBe(false);
  });
});

test('numbers in the query', async () => {
  const url = new URL('http://127.0.0.1/?limit=5&bad=x&low=-1&part=1.5');
  expect(queryNumber(url, 'limit', 9, 10)).toBe(5);
  expect(queryNumber(url, 'none', 9, 10)).toBe(9);
  for (const name of ['bad', 'low', 'part']) expect(() => queryNumber(url, name, 0, 10)).toThrow(/is no number/);
});

test('problems are told as RFC 9457 says', async () => {
  const refusal = {
    code: 'pool-full',
    subject: { kind: 'pool' as const, name: 'quay' },
    message: 'quay has no extent left to give.',
    mend: 'Choose another pool.',
  };
  const response = problemResponse(refusedProblem([refusal]));
  expect([response.status, response.headers.get('content-type')]).toEqual([422, 'application/problem+json']);
  expect(await response.json()).toEqual({
    type: 'urn:trabes:problem:pool-full',
    title: refusal.message,
    status: 422,
    detail: 'quay has no extent left to give. Choose another pool.',
    code: 'pool-full',
    mend: refusal.mend,
    refusals: [refusal],
  });
});

test('a problem is known for one though another copy of its class made it', async () => {
  const foreign = Object.assign(new Error('x'), { status: 404, code: 'y', mend: 'z', refusals: [] });
  foreign.name = 'Problem';
  expect(Problem.is(foreign)).toBe(true);
  expect(Problem.is(new Error('x'))).toBe(false);
});

test('settings have defaults, and the environment changes them', async () => {
  const env = (more: Record<string, string>) => readSettings({ NODE_ENV: 'test', ...more });
  expect(env({})).toMatchObject({ port: 4600, host: '127.0.0.1', fill: 'demo', allowedHosts: [] });
  expect(env({}).databaseFile).toMatch(/\.data\/trabes\.db$/);
  expect(env({ TRABES_PORT: '4700', TRABES_FILL: 'empty', TRABES_ALLOWED_HOSTS: 'San.example, b' })).toMatchObject({
    port: 4700,
    fill: 'empty',
    allowedHosts: ['san.example', 'b'],
  });
});
