import { spawn } from 'node:child_process';
import { expect, test, type APIRequestContext, type Page } from './test';
import { addToDraft, advance, carryOut, emptyTray, setClock } from './steps';

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

const sheetOf = (page: Page) => page.getByRole('complementary');
const withParams = (sheet: string, params: object) =>
  `/?sheet=${sheet}&with=${encodeURIComponent(JSON.stringify(params))}`;

async function runFromSheet(page: Page, request: APIRequestContext, seconds: number): Promise<void> {
  await page.getByRole('button', { name: 'Review', exact: true }).click();
  await sheetOf(page).getByRole('button', { name: 'Run' }).click();
  await advance(request, seconds);
  await expect(sheetOf(page).getByText(/(\d+) of \1 steps stand\./)).toBeVisible();
}

test('levels side by side: chosen drives, a sort, an advice, a stripe; all by keyboard', async ({ page }) => {
  await page.goto(withParams('raid-group.create', { array: 'lintel-1' }));
  const board = page.getByRole('region', { name: 'Drives to tick' });
  await page.getByLabel('How many to tick').fill('10');
  await expect(board.getByRole('button', { name: 'Tick 10 for me' })).toBeEnabled();
  await board.getByRole('button', { name: 'Tick 10 for me' }).focus();
  await page.keyboard.press('Enter');
  await expect(sheetOf(page).getByText('10 ticked, 38.4 TB raw.')).toBeVisible();

  const levels = sheetOf(page).getByRole('radiogroup', { name: 'Level' });
  const names = async () => (await levels.getByRole('radio').allTextContents()).map((text) => text.slice(0, 8));
  await levels.getByRole('button', { name: 'Usable' }).focus();
  await page.keyboard.press('Enter');
  await expect.poll(names).toEqual(expect.arrayContaining(['RAID 0 1']));
  expect((await names())[0]).toBe('RAID 0 1');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await names())[0]).toBe('RAID 1 ×');

  await sheetOf(page).getByRole('button', { name: 'Safest' }).click();
  await expect(levels.getByRole('radio', { checked: true })).toHaveCount(1);
  await levels.getByRole('radio', { name: /^RAID 6 8\+2/ }).focus();
  await page.keyboard.press('Space');
  await expect(sheetOf(page).getByText(/RAID 6 8\+2: .* usable; survives 2 lost drives/)).toBeVisible();
  const layout = sheetOf(page).getByRole('figure', { name: 'Layout of the first stripes' });
  await layout.getByText('17', { exact: true }).hover();
  await expect(layout.getByText(/^Stripe 2: data on .*parity on 0:\d+, 0:\d+$/)).toBeVisible();

  // Hosts that keep the drives busy make a rebuild longer.
  const rebuild = async () => (await levels.getByRole('radio', { name: /^RAID 6 8\+2/ }).textContent())!;
  const before = await rebuild();
  await sheetOf(page).getByRole('slider', { name: 'Busy with hosts' }).press('End');
  await expect.poll(rebuild).not.toBe(before);
});

test('a drive dies: a spare stands in, the group is whole again, the new drive takes its place back', async ({
  page,
  request,
}) => {
  await request.post('/api/v1/lab/faults', { data: { kind: 'drive-failed', component: 'lintel-1/0:4' } });
  await page.goto('/findings');
  await expect(page.getByText(/rg-1 is degraded: 1 of its drives is not whole, 1 more may fail\./)).toBeVisible();
  await page.getByRole('link', { name: 'lintel-1 rg-1' }).first().click();
  const selection = page.getByRole('region', { name: 'Selection' });
  await expect(selection.getByText(/a drive is being rebuilt/)).toBeVisible();
  await selection.getByRole('button', { name: 'Change' }).click();
  await expect(sheetOf(page).getByText(/A rebuild would take/)).toBeVisible();
  await advance(request, 3 * 3600);
  const group = async () =>
    (await (await request.get('/api/v1/raid-groups/lintel-1/rg-1')).json()) as { state: string; drives: string[] };
  expect((await group()).state).toBe('ok');
  await page.goto('/findings');
  await page.getByRole('button', { name: /Replace the drive for lintel-1 0:2[23]/ }).click();
  await expect(sheetOf(page).getByText('The spare that stands in copies back to it and is free again.')).toBeVisible();
  await addToDraft(page);
  await runFromSheet(page, request, 3 * 3600);
  for (const slot of ['0:22', '0:23'])
    expect(await (await request.get(`/api/v1/drives/lintel-1/${slot}`)).json()).toMatchObject({
      raidGroup: null,
      state: 'ok',
      standsInFor: null,
    });
  expect((await group()).state).toBe('ok');
});

test('a third failure takes volumes down, and they come back with the enclosure', async ({ page, request }) => {
  await request.post('/api/v1/lab/faults', { data: { kind: 'enclosure-down', component: 'lintel-1/0' } });
  await page.goto('/?sel=');
  await page.getByRole('option', { name: /^tickets,/ }).click();
  await expect(page.getByRole('region', { name: 'Selection' }).getByLabel('broken').first()).toBeVisible();
  await page.goto('/findings');
  // The cause comes first; what hangs on it is folded under it.
  await expect(page.getByText(/^Enclosure lintel-1 0 is down: \d+ findings hang on it\./)).toBeVisible();
  await expect(page.getByText('rg-1 is lost')).toBeHidden();
  await page.getByRole('button', { name: /^Show the \d+ that hang on lintel-1 0$/ }).click();
  await expect(page.getByText('rg-1 is lost: 10 of its drives cannot be read.')).toBeVisible();
  await request.post('/api/v1/lab/faults', {
    data: { kind: 'enclosure-down', component: 'lintel-1/0', clear: true },
  });
  await expect(page.getByText('rg-1 is lost')).toBeHidden();
});

test('growing a volume prepares what hosts must do next, in one change', async ({ page, request }) => {
  await page.goto(withParams('volume.resize', { array: 'lintel-1', volumes: ['crew-rota'] }));
  await page.getByLabel('New size').fill('100 GiB');
  await expect(sheetOf(page).getByRole('alert').first()).toContainText('Shrink the file system to 100 GiB first.');
  await page.getByLabel('New size').fill('1 TiB');
  await expect(sheetOf(page).getByText('Then also: Rescan gate-2, Grow the file system on gate-2')).toBeVisible();
  await addToDraft(page);
  await runFromSheet(page, request, 600);
  const devices = (await (await request.get('/api/v1/devices?host=gate-2')).json()) as {
    items: { mountPoint: string; fileSystemSize: number }[];
  };
  expect(devices.items.find((device) => device.mountPoint === '/srv/crew-rota')!.fileSystemSize).toBe(2 ** 40);
});

test('a volume that holds data asks for its name, is kept, and comes back', async ({ page, request }) => {
  await carryOut(request, 'For the bin', [
    { do: 'volume.create', array: 'lintel-1', pool: 'hold', name: 'old-rota', size: '4 GiB', provisioning: 'thick' },
    { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['old-rota'] },
    { do: 'host.rescan', host: 'gate-1' },
    { do: 'host-device.format', host: 'gate-1', device: 'old-rota', fileSystem: 'xfs', mountPoint: '/srv/old' },
    { do: 'host-device.unmount', host: 'gate-1', device: 'old-rota' },
    { do: 'mapping.delete', host: 'gate-1', array: 'lintel-1', volumes: ['old-rota'] },
    { do: 'host.rescan', host: 'gate-1' },
  ]);
  await page.goto(withParams('volume.delete', { array: 'lintel-1', volumes: ['old-rota'] }));
  await expect(sheetOf(page).getByText('Write the names of those that hold data: old-rota.')).toBeVisible();
  await page.getByLabel('Names once more').fill('old-rota');
  await addToDraft(page);
  await runFromSheet(page, request, 60);
  await page.goto('/capacity');
  await expect(
    page
      .getByRole('region', { name: 'What can be had back' })
      .getByText(/^old-rota/)
      .first(),
  ).toBeVisible();
  await carryOut(request, 'Back again', [{ do: 'volume.restore', array: 'lintel-1', volumes: ['old-rota'] }]);
  await expect(page.getByRole('region', { name: 'What can be had back' }).getByText(/retired, and kept/)).toBeHidden();
});

test('Capacity: parts add up, what if moves the marks, every table can be taken away', async ({ page, request }) => {
  await page.goto('/capacity');
  const pools = page.getByRole('region', { name: 'Arrays and pools' });
  await pools.getByRole('button', { name: /^tide/ }).click();
  await expect(page).toHaveURL(/sel=pool%3Apool_/);
  const fall = page.getByRole('region', { name: 'Waterfall of tide' });
  await fall.getByRole('button', { name: /^Written/ }).hover();
  await expect(fall.getByText('timetable-1')).toBeVisible();

  const words = page.getByLabel('What would be');
  await page.getByRole('slider', { name: 'Drives added' }).press('End');
  await expect(words.getByText(/→ .* of 50\.\d+ TiB/)).toBeVisible();
  await page.getByRole('button', { name: 'As it is' }).click();
  await expect(words.getByText(/→/)).toHaveCount(0);

  const summary = (await (await request.get('/api/v1/capacity')).json()) as {
    arrays: { parts: Record<string, number>; pools: { name: string; waterfall: Record<string, number> }[] }[];
  };
  for (const array of summary.arrays) {
    const { raw, overhead, spares, unassigned, usable } = array.parts;
    expect(overhead! + spares! + unassigned! + usable!).toBe(raw);
    for (const { waterfall: w } of array.pools) {
      expect(w.unwritten! + w.zeros! + w.cloneSharing! + w.dedupeSaving! + w.compressionSaving! + w.data!).toBe(
        w.provisioned,
      );
      expect(w.physical! + w.slack!).toBe(w.used);
    }
  }
  for (const table of [
    'arrays',
    'sites',
    'pools',
    'volumes',
    'workloads',
    'media',
    'reclaimable',
    'runways',
    'history',
  ]) {
    const csv = await (await request.get(`/api/v1/capacity/csv?table=${table}`)).text();
    expect(csv.split('\r\n').length, table).toBeGreaterThan(2);
  }
  const history = (await (await request.get('/api/v1/history?sum=volumes')).json()) as { days: { day: number }[] };
  expect(history.days.length).toBeGreaterThanOrEqual(119);
  expect((await request.get('/api/v1/capacity/csv?table=shelves')).status()).toBe(404);
});

test('a finding is mended by its prepared change, another is muted with a reason', async ({ page, request }) => {
  await page.goto('/findings');
  await page.getByRole('button', { name: 'Say who is told for lintel-1 tide' }).click();
  await sheetOf(page).getByRole('button', { name: /^More/ }).click();
  await sheetOf(page).getByLabel('Tell', { exact: true }).fill('storage desk, Nordkai');
  await addToDraft(page);
  await runFromSheet(page, request, 60);
  await expect(page.getByText('Nobody is told when tide fills')).toBeHidden();

  await page.getByRole('button', { name: 'Mute pool-oversubscribed for lintel-1 tide' }).click();
  await sheetOf(page).getByLabel('Reason').fill('Two shelves are ordered');
  await addToDraft(page);
  await runFromSheet(page, request, 60);
  await expect(page.getByText('tide promises 239 % of its size.')).toBeHidden();
  // Two more are muted in the demo.
  await page.getByRole('button', { name: 'Show 3 muted' }).click();
  await expect(page.getByText('Two shelves are ordered')).toBeVisible();
  expect(await (await request.get('/api/v1/findings?format=csv')).text()).toContain('Two shelves are ordered');
});

/** An instance of its own, filled with an estate. */
async function withInstance(estate: object, work: (address: string) => Promise<void>): Promise<void> {
  const port = String(Number(process.env.E2E_PORT) + 2);
  const server = spawn(process.execPath, ['scripts/serve.mjs'], {
    stdio: 'ignore',
    env: {
      ...process.env,
      TRABES_DB: `${process.env.E2E_DB}-case-${Date.now()}`,
      TRABES_FILL: 'empty',
      TRABES_PORT: port,
    },
  });
  const address = `http://127.0.0.1:${port}`;
  try {
    await expect(async () => expect((await fetch(`${address}/api/v1/health`)).ok).toBe(true)).toPass({
      timeout: 20_000,
    });
    const taken = await fetch(`${address}/api/v1/estate`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(estate),
    });
    expect(taken.status, await taken.clone().text()).toBeLessThan(300);
    await work(address);
  } finally {
    server.kill('SIGTERM');
  }
}

test('half full though little is written: shrunk, made thin, reduced, while the host works on', async ({
  page,
  request,
}) => {
  test.setTimeout(120_000);
  // Three small drives of which level 5 makes 200 GiB.
  const whole = (await (await request.get('/api/v1/estate')).json()) as { trabes: 1; estate: Record<string, Row[]> };
  type Row = Record<string, unknown> & { id: string; array: string; name: string; media?: string; slot?: number };
  const bare = whole.estate;
  const array = bare.array!.find((row) => row.name === 'lintel-1')!;
  const drives = bare.drive!.filter((row) => row.array === array.id && row.media === 'ssd-nvme').slice(0, 3);
  const fresh = {
    state: 'ok',
    raidGroup: null,
    spare: 'no',
    spareGroup: null,
    standsInFor: null,
    wear: 0,
    holdsData: false,
  };
  const estate = {
    trabes: 1,
    estate: {
      site: bare.site!,
      array: [array],
      controller: bare.controller!.filter((row) => row.array === array.id),
      target: bare.target!.filter((row) => row.array === array.id),
      enclosure: bare.enclosure!.filter((row) => row.array === array.id),
      drive: drives.map((row) => ({ ...row, ...fresh, capacity: 108_000_000_000 })),
      network: bare.network!,
      // Without fabrics: their switches stay behind.
      port: bare.port!.filter((row) => row.array === array.id).map((row) => ({ ...row, switch: null })),
    },
  };
  await withInstance(estate, async (address) => {
    const post = async (path: string, data: object) => {
      const response = await request.post(`${address}/api/v1${path}`, { data });
      expect(response.ok(), `${path} ${await response.text()}`).toBe(true);
      return (await response.json()) as { id: string };
    };
    await post('/lab/clock', { speed: 0 });
    const run = async (title: string, operations: object[], seconds: number) => {
      const { id } = await post('/changes', { title, operations });
      await post(`/changes/${id}/run`, {});
      await post('/lab/advance', { seconds });
      expect(((await (await request.get(`${address}/api/v1/changes/${id}`)).json()) as { state: string }).state).toBe(
        'done',
      );
    };
    const hour = 3600;
    await run(
      'Carve',
      [
        {
          do: 'raid-group.create',
          array: 'lintel-1',
          name: 'rg-1',
          level: 'raid5',
          drives: drives.map((row) => `0:${row.slot}`),
        },
        { do: 'pool.create', array: 'lintel-1', name: 'rota', raidGroups: ['rg-1'], dedupe: 'scheduled', reserve: 1 },
        {
          do: 'volume.create',
          array: 'lintel-1',
          pool: 'rota',
          name: 'desk',
          size: '60 GiB',
          count: 2,
          provisioning: 'thick',
        },
        {
          do: 'host.create',
          name: 'gate-1',
          os: 'linux',
          site: 'Nordkai',
          initiators: ['iqn.2031-04.example.skarholt:gate-1'],
          interfaces: [{ name: 'eth0', addresses: ['10.40.1.51/24'] }],
        },
        { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['desk-1', 'desk-2'] },
        { do: 'host.rescan', host: 'gate-1' },
        { do: 'host-device.format', host: 'gate-1', device: 'desk-1', fileSystem: 'xfs', mountPoint: '/srv/desk-1' },
        { do: 'host-device.format', host: 'gate-1', device: 'desk-2', fileSystem: 'xfs', mountPoint: '/srv/desk-2' },
      ],
      hour,
    );
    // Each writes 24 GiB, of which 22 are alike on both: 110 of every 120 pages.
    const content = { family: 'desk', zero: 0, common: 110, span: 0, squeeze: 'text' };
    for (const volume of ['desk-1', 'desk-2']) await post('/lab/content', { array: 'lintel-1', volume, content });
    const devices = async () =>
      (
        (await (await request.get(`${address}/api/v1/devices`)).json()) as {
          items: { name: string; mountPoint: string | null; used: number }[];
        }
      ).items;
    for (const device of await devices()) {
      const rest = 24 * 2 ** 30 - device.used;
      await post('/lab/traffic', { host: 'gate-1', device: device.name, rate: `${rest / 64} B/s` });
    }
    await post('/lab/advance', { seconds: 64 });
    for (const device of await devices()) {
      expect(device.used).toBe(24 * 2 ** 30);
      await post('/lab/traffic', { host: 'gate-1', device: device.name, rate: '0' });
    }

    interface Shown {
      used: number;
      size: number;
      waterfall: Record<string, number>;
    }
    const pool = async (): Promise<Shown> =>
      ((await (await request.get(`${address}/api/v1/capacity`)).json()) as { arrays: { pools: Shown[] }[] }).arrays[0]!
        .pools[0]!;
    /** What the Capacity view shows, against what the API computes. */
    const percent = async (expected: number) => {
      const { used, size } = await pool();
      expect(Math.ceil((used / size) * 100)).toBe(expected);
      await page.goto(`${address}/capacity`);
      await expect(
        page.getByRole('region', { name: 'Arrays and pools' }).getByRole('button', { name: /^rota/ }),
      ).toContainText(`, ${expected} %`);
      expect((await devices()).every((device) => device.mountPoint !== null)).toBe(true);
    };
    expect((await pool()).size).toBe(200 * 2 ** 30);
    await percent(60);

    // Shrunk in the browser: the file systems first, then the volumes, which must look again.
    for (const device of ['desk-1', 'desk-2']) {
      await page.goto(`${address}${withParams('host-device.shrink', { host: 'gate-1', device, size: '40 GiB' })}`);
      await page.getByRole('checkbox').last().uncheck();
      await addToDraft(page);
    }
    await page.goto(
      `${address}${withParams('volume.resize', { array: 'lintel-1', volumes: ['desk-1', 'desk-2'], size: '40 GiB' })}`,
    );
    await addToDraft(page);
    await page.getByRole('button', { name: 'Review', exact: true }).click();
    await sheetOf(page).getByRole('button', { name: 'Run' }).click();
    await post('/lab/advance', { seconds: hour });
    await expect(sheetOf(page).getByText(/(\d+) of \1 steps stand\./)).toBeVisible();
    await percent(40);

    await run('Thin', [{ do: 'volume.convert', array: 'lintel-1', volumes: ['desk-1', 'desk-2'], to: 'thin' }], hour);
    await percent(24);
    await run('Reduce', [{ do: 'pool.reduce', array: 'lintel-1', name: 'rota' }], hour);
    const { waterfall, used, size } = await pool();
    expect(waterfall.data! / 2 ** 30).toBeCloseTo(26, 3);
    expect(waterfall.metadata).toBeGreaterThan(0);
    expect((waterfall.data! / size) * 100).toBeCloseTo(13, 1);
    expect(used).toBe(waterfall.data! + waterfall.metadata! + waterfall.slack!);
    await percent(Math.ceil((used / size) * 100));
    expect(Math.ceil((used / size) * 100)).toBeLessThanOrEqual(14);
  });
});
