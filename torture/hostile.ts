import http from 'node:http';
import { chance, pick } from './random-operation';

type Random = () => number;

export interface Hostile {
  name: string;
  method: string;
  path: string;
  headers?: Record<string, string>;
  body?: string;
  /** Statuses that are right; without them anything below 500. */
  expects?: readonly number[];
}

const json = { 'content-type': 'application/json' };
const yaml = { 'content-type': 'application/yaml' };
const operations = (list: unknown[]) => JSON.stringify({ title: 'hostile', operations: list });
const many = (count: number, one: (k: number) => string): string =>
  Array.from({ length: count }, (_, k) => one(k)).join('');

/** Requests that mean no good, or are slips of somebody in a hurry. */
export const hostiles: readonly Hostile[] = [
  {
    name: 'brackets, JSON',
    method: 'POST',
    path: '/api/v1/preview',
    headers: json,
    body: '['.repeat(100_000),
    expects: [400],
  },
  {
    name: 'brackets, YAML',
    method: 'POST',
    path: '/api/v1/changes',
    headers: yaml,
    body: '['.repeat(100_000),
    expects: [400],
  },
  {
    name: 'dashes, YAML',
    method: 'POST',
    path: '/api/v1/changes',
    headers: yaml,
    body: '- '.repeat(100_000),
    expects: [400],
  },
  {
    name: 'keys, YAML',
    method: 'POST',
    path: '/api/v1/changes',
    headers: yaml,
    body: many(60_000, (k) => `k${k}: 1\n`),
    expects: [400],
  },
  {
    name: 'anchors, YAML',
    method: 'POST',
    path: '/api/v1/changes',
    headers: yaml,
    body: many(30_000, (k) => `- &a${k} 1\n`),
    expects: [400],
  },
  {
    name: 'aliases that multiply, YAML',
    method: 'POST',
    path: '/api/v1/changes',
    headers: yaml,
    body: `a: &a [1,1,1,1,1,1,1,1,1]\n${many(9, (k) => `${'bcdefghij'[k]}: &${'bcdefghij'[k]} [${many(9, () => `*${'abcdefghi'[k]},`)}]\n`)}`,
    expects: [400],
  },
  {
    name: 'many operations of many',
    method: 'POST',
    path: '/api/v1/preview',
    headers: json,
    body: JSON.stringify({
      operations: Array.from({ length: 1900 }, (_, k) => ({
        do: 'volume.create',
        array: 'lintel-1',
        pool: 'quay',
        name: `m${k}-#`,
        size: '1 GiB',
        count: 1000,
      })),
    }),
    expects: [200, 409],
  },
  {
    name: 'too many operations',
    method: 'POST',
    path: '/api/v1/preview',
    headers: json,
    body: JSON.stringify({ operations: Array.from({ length: 5000 }, () => ({ do: 'host.rescan', host: 'gate-1' })) }),
    expects: [400],
  },
  { name: 'zeros as zoning', method: 'POST', path: '/api/v1/zoning/import', body: '0'.repeat(30_000), expects: [422] },
  {
    name: 'lines of zeros as zoning',
    method: 'POST',
    path: '/api/v1/zoning/import',
    body: '0\n'.repeat(30_000),
    expects: [422],
  },
  {
    name: 'a zoning list of zeros',
    method: 'POST',
    path: '/api/v1/zoning/import',
    body: `fabric,what,name,members\n${'0\n'.repeat(30_000)}`,
    expects: [422],
  },
  { name: 'nonsense as zoning', method: 'POST', path: '/api/v1/zoning/import', body: '[1,2,3]', expects: [422] },
  { name: 'a method that is not taken', method: 'DELETE', path: '/api/v1/health', expects: [405] },
  { name: 'percent', method: 'GET', path: '/api/v1/volumes/%25', expects: [404] },
  { name: 'broken percent', method: 'GET', path: '/api/v1/volumes/%', expects: [400] },
  { name: 'no UTF-8', method: 'GET', path: '/api/v1/volumes/%ff', expects: [400] },
  { name: 'a surrogate in the path', method: 'GET', path: '/api/v1/volumes/%ED%A0%80', expects: [400] },
  {
    name: 'a surrogate in a name',
    method: 'POST',
    path: '/api/v1/changes',
    headers: json,
    body: '{"title":"\\ud800","operations":[{"do":"host.rescan","host":"gate-1"}]}',
    expects: [400],
  },
  {
    name: 'NUL in a name',
    method: 'POST',
    path: '/api/v1/changes',
    headers: json,
    body: '{"title":"a\\u0000b","operations":[{"do":"host.rescan","host":"gate-1"}]}',
    expects: [400],
  },
  {
    name: 'proto as a choice',
    method: 'POST',
    path: '/api/v1/form',
    headers: json,
    body: JSON.stringify({ do: 'host.create', params: { os: '__proto__', name: 'constructor' } }),
    expects: [200],
  },
  {
    name: 'proto as parameters',
    method: 'POST',
    path: '/api/v1/form',
    headers: json,
    body: '{"do":"host.create","params":{"__proto__":{"os":"linux"},"interfaces":[null,7,{"addresses":7}]}}',
    expects: [200],
  },
  { name: 'proto as a collection', method: 'GET', path: '/api/v1/__proto__', expects: [404] },
  {
    name: 'proto as an operation',
    method: 'POST',
    path: '/api/v1/changes',
    headers: json,
    body: operations([{ do: '__proto__' }, { do: 'constructor' }]),
    expects: [422],
  },
  { name: 'a method of its own', method: 'PROPFIND', path: '/api/v1/health', expects: [405] },
  { name: 'nothing there', method: 'GET', path: '/api/v2/volumes', expects: [404] },
  {
    name: 'a foreign origin',
    method: 'POST',
    path: '/api/v1/lab/clock',
    headers: { ...json, origin: 'http://evil.example' },
    body: '{"speed":0}',
    expects: [403],
  },
  {
    name: 'a secret in a field of another name',
    method: 'POST',
    path: '/api/v1/changes',
    headers: json,
    body: operations([{ do: 'host.configure', host: 'gate-1', ChapSecret: 'tide tables of 2031' }]),
    expects: [422],
  },
  {
    name: 'a secret as a list',
    method: 'POST',
    path: '/api/v1/changes',
    headers: json,
    body: operations([{ do: 'host.configure', host: 'gate-1', chapSecret: ['tide tables of 2031'] }]),
    expects: [422],
  },
  {
    name: 'a size beyond all',
    method: 'POST',
    path: '/api/v1/preview',
    headers: json,
    body: JSON.stringify({
      operations: [{ do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'x', size: '9'.repeat(400) + ' GiB' }],
    }),
    expects: [200],
  },
  {
    name: 'an estate into a full instance',
    method: 'POST',
    path: '/api/v1/estate',
    headers: json,
    body: '{"trabes":1,"estate":{}}',
    expects: [409],
  },
  {
    name: 'half an estate',
    method: 'POST',
    path: '/api/v1/estate',
    headers: json,
    body: '{"trabes":1,"estate":{"site":[{"id"',
    expects: [409, 422],
  },
  { name: 'a search for everything', method: 'GET', path: `/api/v1/search?q=${'a'.repeat(2000)}` },
  { name: 'a query of nonsense', method: 'GET', path: '/api/v1/volumes?limit=-1', expects: [400] },
  { name: 'what if everything', method: 'GET', path: '/api/v1/what-if?failed=nothing', expects: [404] },
  { name: 'an unknown verb', method: 'POST', path: '/api/v1/changes/chg_none/explode', expects: [404] },
  {
    name: 'If-Match of nonsense',
    method: 'DELETE',
    path: '/api/v1/changes/chg_none',
    headers: { 'if-match': '"x"' },
    expects: [404],
  },
  {
    name: 'a list of hosts of nonsense',
    method: 'POST',
    path: '/api/v1/hosts/import',
    body: 'name,site,os\n"',
    expects: [422],
  },
  {
    name: 'a clock of nonsense',
    method: 'POST',
    path: '/api/v1/lab/clock',
    headers: json,
    body: '{"speed":1e99}',
    expects: [400],
  },
];

/** A parameter list scrambled by chance: kinds of values where others belong. */
export function scrambled(random: Random, operation: Record<string, unknown>): Record<string, unknown> {
  const odd = [null, -1, 1e308, '', '\u202e', [], {}, [[]], 'x'.repeat(300), true, { a: { b: [] } }, 'constructor'];
  return Object.fromEntries(
    Object.entries(operation).map(([field, value]) => [
      field,
      field !== 'do' && chance(random, 0.4) ? pick(random, odd) : value,
    ]),
  );
}

/** Sends what fetch would not: methods and paths as they are. */
export function sent(
  address: string,
  { method, path: at, headers, body }: Hostile,
): Promise<{ status: number; text: string }> {
  return new Promise((resolve, reject) => {
    const { hostname, port } = new URL(address);
    const request = http.request(
      { hostname, port, method, path: at, headers: headers ?? {}, timeout: 30_000 },
      (response) => {
        const chunks: Buffer[] = [];
        response.on('data', (chunk: Buffer) => chunks.push(chunk));
        response.on('end', () =>
          resolve({ status: response.statusCode ?? 0, text: Buffer.concat(chunks).toString('utf8') }),
        );
        response.on('error', reject);
      },
    );
    request.on('timeout', () => request.destroy(new Error('no answer within 30 s')));
    request.on('error', reject);
    request.end(body);
  });
}
