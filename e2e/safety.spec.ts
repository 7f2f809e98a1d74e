import { expect, test, type APIRequestContext } from './test';
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { hostiles, sent } from '../torture/hostile';
import { advance, carryOut, emptyTray, setClock } from './steps';

const carve = (name: string, more: object = {}) => ({
  do: 'volume.create',
  array: 'lintel-1',
  pool: 'quay',
  name,
  size: '10 GiB',
  ...more,
});
const sheet = (id: string) => `/?sheet=change&with=${encodeURIComponent(JSON.stringify({ id }))}`;
const prepared = async (request: APIRequestContext, title: string, operations: object[]): Promise<string> => {
  const answer = await request.post('/api/v1/changes', { data: { title, operations } });
  expect(answer.status(), await answer.text()).toBe(201);
  return ((await answer.json()) as { id: string }).id;
};

/** A server of its own: what it says on its error stream, and how it ends. */
async function starting(env: Record<string, string>) {
  const port = String(Number(process.env.E2E_PORT) + 3);
  const child: ChildProcess = spawn(process.execPath, ['scripts/serve.mjs'], {
    stdio: ['ignore', 'ignore', 'pipe'],
    env: { ...process.env, TRABES_HOST: '127.0.0.1', TRABES_PORT: port, TRABES_FILL: 'empty', ...env },
  });
  let said = '';
  child.stderr!.on('data', (chunk: Buffer) => (said += chunk.toString()));
  const ended = once(child, 'exit') as Promise<[number | null]>;
  return {
    address: `http://127.0.0.1:${port}`,
    child,
    /** Its end, and what it said. */
    end: async () => ({ status: (await ended)[0], said }),
  };
}
let folder: string;
test.beforeAll(async ({ request }) => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-safety-'));
  await setClock(request, 0);
});
test.afterAll(async ({ request }) => {
  rmSync(folder, { recursive: true });
  await emptyTray(request);
});

test('hostile requests are answered in words, none with a defect, and nobody else waits long', async ({ baseURL }) => {
  test.setTimeout(120_000);
  for (const hostile of hostiles) {
    const { status, text } = await sent(baseURL!, hostile);
    if (hostile.expects)
      expect([hostile.name, hostile.expects.includes(status), status]).toEqual([hostile.name, true, status]);
    expect(status).toBeLessThan(500);
    if (status >= 400) expect(JSON.parse(text)).toMatchObject({ status });
    expect(text).not.toContain('tide tables of 2031');
  }
});

test('every answer says that its type is what it says', async ({ request }) => {
  for (const at of [
    '/',
    '/capacity',
    '/api/v1/health',
    '/api/nothing',
    '/api',
    '/nothing',
    '/api/v1/estate?format=yaml',
  ])
    expect([at, (await request.get(at)).headers()['x-content-type-options']]).toEqual([at, 'nosniff']);
});

test('an undo shows what it would take back, is refused where that is taken, and leads to the mend', async ({
  page,
  request,
}) => {
  const map = await carryOut(request, 'Two more', [
    carve('undo', { count: 2 }),
    { do: 'mapping.create', host: 'gate-2', array: 'lintel-1', volumes: ['undo-1'], lun: 40 },
  ]);
  await page.goto(sheet(map));
  const undo = page.getByRole('region', { name: 'Undo', exact: true });
  await expect(undo.getByText('Goes: mapping LUN 40.')).toBeVisible();
  await expect(undo.getByRole('table', { name: 'Before and after undo' })).toContainText('gate-2');
  const away = await carryOut(request, 'Take it away', [
    { do: 'mapping.delete', host: 'gate-2', array: 'lintel-1', volumes: ['undo-1'] },
  ]);
  await page.goto(sheet(away));
  await expect(undo.getByText('Returns: mapping LUN 40.')).toBeVisible();
  // While the sheet is open somebody takes the LUN: what may be undone is read again.
  await carryOut(request, 'In its place', [
    { do: 'mapping.create', host: 'gate-2', array: 'lintel-1', volumes: ['undo-2'], lun: 40 },
  ]);
  await expect(undo.getByText('gate-2 sees undo-2 as LUN 40; undo-1 cannot have it too.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled();
  const refused = await request.post(`/api/v1/changes/${away}/undo`);
  expect([refused.status(), ((await refused.json()) as { code: string }).code]).toEqual([409, 'breaks-lun-taken']);
  await undo.getByRole('button', { name: 'Change the mapping of undo-2' }).click();
  await expect(page.getByRole('heading', { name: 'Change a mapping' })).toBeVisible();
});

test('what was undone is laid again as a draft', async ({ page, request }) => {
  const id = await carryOut(request, 'For a while', [carve('while')]);
  await page.goto(sheet(id));
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByText('Undo', { exact: true }).first()).toBeVisible();
  await advance(request, 600);
  await page.getByRole('button', { name: 'Lay again as a draft' }).click();
  await expect(page.getByRole('heading', { name: 'Review' })).toBeVisible();
  await expect(page.getByLabel('Title')).toHaveValue('For a while');
});

test('a draft that somebody else changes is not run unseen', async ({ page, request }) => {
  const id = await prepared(request, 'Ours', [carve('ours')]);
  await page.goto(sheet(id));
  const run = page.getByRole('button', { name: 'Run', exact: true });
  await expect(run).toBeEnabled();
  const first = await request.get(`/api/v1/changes/${id}`);
  expect(first.headers().etag).toBe(`"${id}.1"`);
  const revised = await request.patch(`/api/v1/changes/${id}`, {
    data: { operations: [carve('ours', { size: '90 GiB' })] },
    headers: { 'if-match': first.headers().etag! },
  });
  expect(revised.status()).toBe(200);
  await expect(page.getByText('Operation 1 (carve volumes) has another size.')).toBeVisible();
  await expect(run).toBeDisabled();
  const late = await request.post(`/api/v1/changes/${id}/run`, { headers: { 'if-match': first.headers().etag! } });
  expect([late.status(), ((await late.json()) as { code: string }).code]).toEqual([412, 'changed-meanwhile']);
  await page.getByRole('button', { name: 'I have seen it' }).click();
  await expect(run).toBeEnabled();
  await request.delete(`/api/v1/changes/${id}`);
});

test('a second server on the same database says where the first is', async ({ baseURL }) => {
  const second = await starting({ TRABES_DB: process.env.E2E_DB! });
  const { status, said } = await second.end();
  expect(status).not.toBe(0);
  expect(said).toContain(`at work on ${process.env.E2E_DB} already: ${baseURL}`);
});

test('what keeps a server from starting is said in one sentence, with a status that is not 0', async () => {
  const broken = path.join(folder, 'broken.db');
  writeFileSync(broken, 'This is a letter, and no database. '.repeat(300));
  mkdirSync(path.join(folder, 'folder.db'));
  const cases: [Record<string, string>, RegExp][] = [
    [{ TRABES_DB: broken }, /broken\.db is broken: it cannot be read\. Put a copy in its place/],
    [{ TRABES_DB: path.join(folder, 'folder.db') }, /is a folder\. Name a file with TRABES_DB/],
    [{ TRABES_PORT: 'abc' }, /TRABES_PORT is "abc"; a port is a number/],
    [{ TRABES_HOST: '0.0.0.0', TRABES_DB: path.join(folder, 'x.db') }, /no token keeps them out\. Set TRABES_TOKEN/],
  ];
  for (const [env, words] of cases) {
    const { status, said } = await (await starting(env)).end();
    expect(said).toMatch(words);
    expect(said).not.toMatch(/\bat .*\.(ts|js):\d+/);
    expect(status).not.toBe(0);
  }
});

test('a server with a token lets nobody in without, asks the page once, and takes it from scripts', async ({
  page,
}) => {
  const token = 'the-tide-comes-in-at-six';
  const server = await starting({ TRABES_DB: path.join(folder, 'token.db'), TRABES_TOKEN: token });
  try {
    const health = (headers: Record<string, string>) =>
      fetch(`${server.address}/api/v1/health`, { headers }).then((answer) => answer.status);
    await expect(async () => expect(await health({})).toBe(401)).toPass({ timeout: 20_000 });
    expect(await health({ authorization: 'Bearer something else altogether' })).toBe(401);
    expect(await health({ authorization: `Bearer ${token}` })).toBe(200);
    await page.goto(server.address);
    await page.getByLabel('Token of this server').fill('not the token, surely');
    await page.getByRole('button', { name: 'Open' }).click();
    await expect(page.getByRole('alert')).toHaveText('That is not the token.');
    await page.getByLabel('Token of this server').fill(token);
    await page.keyboard.press('Enter');
    await expect(page.getByText('No array stands here yet.')).toBeVisible();
    await page.reload();
    await expect(page.getByText('No array stands here yet.')).toBeVisible();
  } finally {
    server.child.kill('SIGTERM');
  }
});

test('an estate of many megabytes comes in as it is sent, wholly or not at all', async ({ request }) => {
  test.setTimeout(180_000);
  const estate = (await (await request.get('/api/v1/estate')).json()) as { estate: Record<string, object[]> };
  const notes = 'x'.repeat(100_000);
  const big = {
    ...estate,
    estate: {
      ...estate.estate,
      workload: [
        ...estate.estate.workload!,
        ...Array.from({ length: 250 }, (_, k) => ({ id: `work_big${k}`, name: `Big ${k}`, notes })),
      ],
    },
  };
  const server = await starting({ TRABES_DB: path.join(folder, 'big.db') });
  try {
    await expect(async () => expect((await fetch(`${server.address}/api/v1/health`)).ok).toBe(true)).toPass();
    const post = (body: string) =>
      fetch(`${server.address}/api/v1/estate`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body,
      });
    const text = JSON.stringify(big);
    expect(text.length).toBeGreaterThan(24 << 20);
    const cut = await post(text.slice(0, -1000));
    expect(cut.status).toBe(422);
    const doubled = await post(
      JSON.stringify({ ...big, estate: { ...big.estate, site: [...estate.estate.site!, estate.estate.site![0]] } }),
    );
    expect([doubled.status, ((await doubled.json()) as { code: string }).code]).toEqual([422, 'estate-inconsistent']);
    const sites = (await (await fetch(`${server.address}/api/v1/sites`)).json()) as { total: number };
    expect(sites.total).toBe(0);
    // Whoever asks meanwhile is answered.
    const coming = post(text);
    let longest = 0;
    for (let done = false; !done;) {
      const begun = performance.now();
      await fetch(`${server.address}/api/v1/health`);
      longest = Math.max(longest, performance.now() - begun);
      done = await Promise.race([coming.then(() => true), new Promise<boolean>((r) => setTimeout(() => r(false), 20))]);
    }
    expect((await coming).status).toBe(201);
    expect(longest).toBeLessThan(5000);
    const workloads = (await (await fetch(`${server.address}/api/v1/workloads`)).json()) as { total: number };
    expect(workloads.total).toBe(big.estate.workload.length);
  } finally {
    server.child.kill('SIGTERM');
  }
});

test('a change file in YAML, large enough for a thread of its own, is read; one that makes no sense is refused in words', async ({
  request,
}) => {
  const yaml = (operations: string) =>
    request.post('/api/v1/changes', {
      headers: { 'content-type': 'application/yaml' },
      data: `trabes: 1\ntitle: From a file\noperations:\n${operations}`,
    });
  const line = (k: number) =>
    `  - do: volume.create\n    array: lintel-1\n    pool: quay\n    name: file-${k}\n    size: 1 GiB\n`;
  const taken = await yaml(Array.from({ length: 150 }, (_, k) => line(k)).join(''));
  expect(taken.status(), await taken.text()).toBe(201);
  const { id, operations } = (await taken.json()) as { id: string; operations: unknown[] };
  expect(operations).toHaveLength(150);
  await request.delete(`/api/v1/changes/${id}`);
  const twice = await yaml(`${Array.from({ length: 150 }, (_, k) => line(k)).join('')}    size: 2 GiB\n`);
  expect(twice.status()).toBe(400);
  expect(((await twice.json()) as { title: string }).title).toMatch(/size is named twice/);
});
