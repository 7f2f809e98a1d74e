import { expect, test, type APIResponse } from './test';
import { advance, emptyTray, setClock } from './steps';

interface ProblemBody {
  code: string;
  title: string;
  status: number;
  mend: string;
  refusals?: { code: string; field?: string; operation?: number }[];
}

async function problem(response: APIResponse, status: number, code: string): Promise<ProblemBody> {
  const body = (await response.json()) as ProblemBody;
  expect([response.status(), body.code], JSON.stringify(body)).toEqual([status, code]);
  expect(response.headers()['content-type']).toContain('application/problem+json');
  expect(body.status).toBe(status);
  expect(JSON.stringify(body)).not.toMatch(/\bat .*\.(ts|js):\d+/);
  expect(body.mend).not.toBe('');
  return body;
}

const volume = (more: object = {}) => ({
  do: 'volume.create',
  array: 'lintel-1',
  pool: 'quay',
  name: 'api',
  size: '10 GiB',
  ...more,
});

test.beforeAll(async ({ request }) => setClock(request, 0));
test.afterAll(async ({ request }) => emptyTray(request));

test('refuses bad input as problem details, never with a stack trace', async ({ request }) => {
  const change = (operations: unknown) => request.post('/api/v1/changes', { data: { title: 'x', operations } });
  await problem(await change([{ do: 'volume.creat' }]), 422, 'operation-unknown');
  await problem(await change([volume({ size: '500' })]), 422, 'unit-missing');
  await problem(await change([volume({ size: '5 furlongs' })]), 422, 'unit-unknown');
  await problem(await change([volume({ size: '99999999999999999999 TiB' })]), 422, 'too-large');
  await problem(await change([volume({ size: 1e300 })]), 422, 'exponent');
  await problem(await change([volume({ count: 1e9 })]), 422, 'parameter-wrong');
  const missing = await problem(
    await change([
      { do: 'raid-group.create', array: 'lintel-1', name: 'x', level: 'raid5', drives: ['0:20', '0:21', '9:9'] },
    ]),
    422,
    'drive-unknown',
  );
  expect(missing.refusals![0]).toMatchObject({ field: 'drives', operation: 0 });
  await problem(await change('nothing'), 400, 'body-wrong');
  await problem(await change([]), 400, 'body-wrong');
  await problem(
    await request.post('/api/v1/changes', {
      headers: { 'content-type': 'application/json' },
      data: Buffer.from('{"title": "x"'),
    }),
    400,
    'broken-json',
  );
  await problem(
    await request.post('/api/v1/changes', {
      headers: { 'content-type': 'application/json' },
      data: Buffer.from([0xff, 0xfe, 0xfd]),
    }),
    400,
    'not-utf8',
  );
  await problem(
    await request.post('/api/v1/changes', { headers: { 'content-type': 'application/yaml' }, data: 'title: "x' }),
    400,
    'broken-yaml',
  );
  await problem(
    await request.post('/api/v1/changes', {
      headers: { 'content-type': 'application/yaml' },
      data: `title: x\noperations:\n  - do: volume.create\n    array: lintel-1\n    pool: nowhere\n    name: a\n    size: 1 GiB`,
    }),
    422,
    'pool-unknown',
  );
  await problem(
    await request.post('/api/v1/changes', {
      headers: { 'content-type': 'application/yaml' },
      data: 'x'.repeat(1_100_000),
    }),
    413,
    'body-too-large',
  );
  await problem(await request.get('/api/v1/changes/none'), 404, 'change-unknown');
  await problem(await request.post('/api/v1/changes/none/explode'), 404, 'verb-unknown');
  await problem(await request.get('/api/v1/teapots'), 404, 'collection-unknown');
  await problem(await request.get('/api/v1/volumes?limit=many'), 400, 'query-wrong');
  await problem(await request.get('/api/v1/volumes/none'), 404, 'not-found');
  await problem(await request.get('/api/v1/paths?host=none'), 404, 'host-unknown');
  await problem(await request.get('/api/v1/span/selection?kind=teapot&id=1'), 400, 'kind-unknown');
  await problem(await request.post('/api/v1/lab/clock', { data: { speed: 7 } }), 400, 'body-wrong');
  await problem(await request.post('/api/v1/lab/advance', { data: { seconds: -1 } }), 400, 'body-wrong');
  await problem(
    await request.post('/api/v1/lab/faults', { data: { kind: 'port-down', component: 'nowhere' } }),
    404,
    'component-unknown',
  );
  await problem(await request.post('/api/v1/estate', { data: {} }), 409, 'estate-not-empty');
});

test('turns away foreign hosts and origins', async ({ request }) => {
  await problem(await request.get('/api/v1/health', { headers: { host: 'elsewhere.example' } }), 403, 'foreign-host');
  await problem(
    await request.post('/api/v1/lab/clock', { headers: { origin: 'http://elsewhere.example' }, data: { speed: 1 } }),
    403,
    'foreign-origin',
  );
  await problem(await request.get('/', { headers: { origin: 'null' } }), 403, 'foreign-origin');
  expect((await request.get('/api/v1/health')).ok()).toBe(true);
  const page = await request.get('/');
  expect(page.headers()['content-security-policy']).toContain("default-src 'self'");
});

test('a change file is prepared, run, read back as a file, and undone', async ({ request, baseURL }) => {
  const yaml = `trabes: 1\ntitle: From a file\noperations:\n  - do: volume.create\n    array: lintel-1\n    pool: quay\n    name: from-file\n    size: 10 GiB\n    count: 2\n`;
  const prepared = await request.post('/api/v1/changes', {
    headers: { 'content-type': 'application/yaml' },
    data: yaml,
  });
  expect(prepared.status()).toBe(201);
  const { id, preview } = (await prepared.json()) as { id: string; preview: { steps: unknown[] } };
  expect(preview.steps).toHaveLength(2);

  const events: string[] = [];
  const stream = await fetch(`${baseURL}/api/v1/events`);
  const reader = stream.body!.getReader();
  const listening = (async () => {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      events.push(new TextDecoder().decode(value));
    }
  })();

  expect((await request.post(`/api/v1/changes/${id}/run`)).status()).toBe(202);
  await advance(request, 60);
  expect(await (await request.get(`/api/v1/changes/${id}`)).json()).toMatchObject({
    state: 'done',
    undo: { possible: true },
  });
  expect(await (await request.get('/api/v1/volumes/lintel-1/from-file-2')).json()).toMatchObject({
    name: 'from-file-2',
  });
  await expect.poll(() => events.join('')).toMatch(/event: commit/);
  expect(events.join('')).toMatch(/event: change\ndata: .*"state":"done"/);
  expect(events.join('')).toMatch(/event: clock\ndata: .*"jobs":\[/);
  await reader.cancel();
  await listening;

  const file = await (await request.get(`/api/v1/changes/${id}?format=yaml`)).text();
  expect(file).toContain('title: From a file');
  expect(file).toContain('name: from-file');
  expect((await request.post(`/api/v1/changes/${id}/undo`)).status()).toBe(202);
  await advance(request, 60);
  expect((await request.get('/api/v1/volumes/lintel-1/from-file-2')).status()).toBe(404);
});

test('paths are listed with what is missing and why', async ({ request }) => {
  await request.post('/api/v1/lab/faults', { data: { kind: 'interface-down', component: 'gate-1/eth1' } });
  const answer = (await (await request.get('/api/v1/paths?host=gate-1&volume=lintel-1/tickets')).json()) as {
    items: { usable: number; expected: number; missing: { reason: string; message: string }[] }[];
  };
  expect(answer.items[0]).toMatchObject({ usable: 2, expected: 4 });
  expect(answer.items[0]!.missing[0]).toMatchObject({ reason: 'interface-down' });
  await request.post('/api/v1/lab/faults', { data: { kind: 'interface-down', component: 'gate-1/eth1', clear: true } });
});

test('the estate is exported as YAML and JSON, and the description lists the operations', async ({ request }) => {
  expect(await (await request.get('/api/v1/estate?format=yaml')).text()).toMatch(/^trabes: 1\nestate:/);
  const estate = (await (await request.get('/api/v1/estate')).json()) as { estate: { drive: unknown[] } };
  expect(estate.estate.drive).toHaveLength(194);
  const description = (await (await request.get('/api/v1/openapi.json')).json()) as {
    openapi: string;
    components: { schemas: Record<string, { description?: string }> };
  };
  expect(description.openapi).toBe('3.1.0');
  expect(description.components.schemas['volume.create']!.description).toContain('Carves');
});
