import { readFileSync } from 'node:fs';
import { expect, test } from './test';
import { addToDraft, advance, carryOut, emptyTray, setClock } from './steps';

// What other files leave behind would stand between what is looked for here.
test.use({ lab: 'views' });

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

test('a selection draws the marker through the whole chain, lives in the URL, and is lifted', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('option', { name: /^tickets,/ }).click();
  await expect(page).toHaveURL(/sel=volume%3Avol_/);
  const selection = page.getByRole('region', { name: 'Selection' });
  await expect(selection.getByRole('heading', { name: 'tickets' })).toBeVisible();
  await expect(selection.getByText('gate-1 LUN 0, 4/4')).toBeVisible();
  await expect(page.locator('[role=option][data-on]', { hasText: 'gate-1' })).toBeVisible();
  // Ten drives here, and ten under its copy at the other harbour.
  await expect(page.locator('.slot[data-on]')).toHaveCount(20);
  await expect.poll(() => page.locator('.wires .line').count()).toBeGreaterThan(8);

  await page.reload();
  await expect(selection.getByRole('heading', { name: 'tickets' })).toBeVisible();
  await page.keyboard.press('m');
  await expect(page.getByRole('option', { name: /^gate-log-1,/ })).toBeHidden();
  await page.keyboard.press('m');
  await page.keyboard.press('Escape');
  await expect(page).not.toHaveURL(/sel=/);
  await expect(page.getByText('Nothing marked')).toBeVisible();
  await page.goBack();
  await expect(selection.getByRole('heading', { name: 'tickets' })).toBeVisible();
});

test('the field finds by IQN, NAA name, address and slot', async ({ page, request }) => {
  await page.goto('/');
  const { items } = (await (await request.get('/api/v1/volumes?name=tickets')).json()) as { items: { naa: string }[] };
  const field = page.getByLabel('Find or do').first();
  for (const [text, option] of [
    ['skarholt:radar-vault', /^radar-vault host/],
    [`naa.${items[0]!.naa}`, /^tickets volume/],
    ['10.40.2.51', /^eth1 host port/],
    ['2:7', /^2:7 drive/],
  ] as const) {
    await field.fill(text);
    // Two arrays have a drive in that slot.
    await expect(page.getByRole('option', { name: option }).first()).toBeVisible();
  }
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/sel=drive%3Adrv_/);
});

test('a list of hosts with two bad lines: each is told with its number, the good ones become a change', async ({
  page,
  request,
}) => {
  await page.goto('/changes');
  await page.getByRole('button', { name: 'Import a list of hosts' }).click();
  await page.locator('input[type=file]').setInputFiles({
    name: 'hosts.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(
      'NAME,Cluster,SITE,Operating System,Initiators,Interface Addresses\n' +
        'rota-1,crew,Nordkai,linux,iqn.2031-04.example.skarholt:rota-1,10.40.1.71/24; 10.40.2.71/24\n' +
        'rota-2,crew,Nordkai,linux,iqn.2031-04.example.skarholt:rota_2,10.40.1.72/24\n' +
        'rota-3,crew,Nordkapp,linux,iqn.2031-04.example.skarholt:rota-3,10.40.1.73/24\n' +
        'rota-4,crew,Nordkai,linux,iqn.2031-04.example.skarholt:rota-4;iqn.2031-04.example.skarholt:rota-4b,10.40.1.74/24\n',
    ),
  });
  const report = page.getByRole('table', { name: 'What became of each line' });
  await expect(report.getByRole('row', { name: /^2 rota-1/ })).toContainText('Taken.');
  await expect(report.getByRole('row', { name: /^3 rota-2/ })).toContainText('Perhaps - is meant');
  await expect(report.getByRole('row', { name: /^4 rota-3/ })).toContainText(
    'There is no site named Nordkapp. Perhaps',
  );
  await expect(page.getByText('2 taken, 2 refused.')).toBeVisible();
  await page.getByRole('button', { name: 'Review the change' }).click();
  await expect(page.getByText('Register rota-4: 2 initiators, 1 interface')).toBeVisible();
  await page.getByRole('button', { name: 'Run' }).click();
  await advance(request, 30);
  await expect(page.getByText('2 of 2 steps stand.')).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await advance(request, 30);
  await expect(page.getByText('0 of 2 steps stand.')).toBeVisible();
});

test('a change file is opened, refused in words, mended and previewed', async ({ page }) => {
  await page.goto('/changes?sheet=file');
  const text = page.getByLabel('Change file', { exact: true });
  await text.fill(
    'title: x\noperations:\n  - do: volume.create\n    array: lintel-1\n    pool: quai\n    name: gate-audit\n    size: 200 GiB\n',
  );
  await page.getByRole('button', { name: 'Preview it' }).click();
  await expect(
    page
      .getByRole('complementary')
      .getByRole('alert')
      .getByText('Operation 1: lintel-1 has no pool named quai. Perhaps quay is meant.'),
  ).toBeVisible();
  await text.fill((await text.inputValue()).replace('quai', 'quay'));
  await page.getByRole('button', { name: 'Preview it' }).click();
  await expect(page.getByText('Carve gate-audit: 200 GiB thin in quay', { exact: false })).toBeVisible();
  await page.getByRole('button', { name: 'Discard' }).click();
  await expect(page.getByText('No draft. Anything you add waits here')).toBeVisible();
});

test('a draft is revised: an operation changed, moved and taken out', async ({ page, request }) => {
  const prepared = await request.post('/api/v1/changes', {
    data: {
      title: 'To revise',
      operations: [
        { do: 'host.rescan', host: 'gate-1' },
        { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'first', size: '1 GiB' },
      ],
    },
  });
  const { id } = (await prepared.json()) as { id: string };
  await page.goto(`/?sheet=change&with=${encodeURIComponent(JSON.stringify({ id }))}`);
  await page.getByRole('button', { name: 'Revise operation 2' }).click();
  await page.getByLabel('Size of each').fill('7 GiB');
  await page.getByRole('button', { name: 'Put into the draft' }).click();
  await expect(page.getByText('Carve first: 7 GiB thin', { exact: false })).toBeVisible();
  await page.getByRole('button', { name: 'Up operation 2' }).click();
  await expect(page.getByRole('complementary').getByRole('listitem').first()).toContainText('Carve first');
  await page.getByRole('button', { name: 'Take out operation 2' }).click();
  await expect(page.getByText(/Rescan gate-1/)).toBeHidden();
  await page.getByRole('button', { name: 'Discard' }).click();
});

test('thin use grows live while the clock runs, and the clock is set', async ({ page, request }) => {
  await page.goto('/');
  const clock = page.getByRole('group', { name: 'Lab clock' });
  await expect(clock.getByText('Lab, paused')).toBeVisible();
  await request.post('/api/v1/lab/traffic', { data: { host: 'gate-1', device: 'tickets', rate: '400 MiB/s' } });
  const row = page.getByRole('option', { name: /^tickets,/ });
  const before = await row.textContent();
  await clock.getByRole('button', { name: '600×' }).click();
  await expect(row).not.toHaveText(before!, { timeout: 20_000 });
  await page.keyboard.press('p');
  await expect(clock.getByText('Lab, paused')).toBeVisible();
  const shown = await clock.getByRole('time').textContent();
  await clock.getByRole('button', { name: 'Jump 1 h' }).click();
  await expect(clock.getByRole('time')).not.toHaveText(shown!);
  await request.post('/api/v1/lab/traffic', { data: { host: 'gate-1', device: 'tickets', rate: '0' } });
});

test('the trace finds the first break, and its mend joins what should meet', async ({ page, request }) => {
  await setClock(request, 0);
  await emptyTray(request);
  await page.goto('/fabric');
  const missing = page.getByRole('button', { name: /^ledger-1 hba1 and lintel-2 a1: should meet, does not/ });
  await expect(missing).toBeVisible();
  await page.goto(`/?sheet=trace&with=${encodeURIComponent(JSON.stringify({ host: 'ledger-1', volume: 'ledger' }))}`);
  const sheet = page.getByRole('complementary');
  await expect(sheet.getByRole('listitem', { name: '8 Zone or network: warn' })).toContainText('not-zoned');
  await expect(sheet.getByRole('table', { name: 'Paths' }).getByText('breaks at hop 8')).toHaveCount(2);
  await sheet.getByRole('button', { name: 'Join them' }).click();
  await expect(sheet.getByText(/Join ledger-1 with lintel-2 in fabric B: 2 pairs/)).toBeVisible();
  await addToDraft(page);
  await page.getByRole('button', { name: 'Review', exact: true }).click();
  await page.getByRole('complementary').getByRole('button', { name: 'Run' }).click();
  await advance(request, 60);
  const { items } = (await (await request.get('/api/v1/paths?host=ledger-1&volume=ledger')).json()) as {
    items: { usable: number; expected: number }[];
  };
  expect(items[0]).toMatchObject({ usable: 4, expected: 4 });
  await page.goto('/fabric');
  await expect(page.getByRole('button', { name: /^ledger-1 hba1 and lintel-2 a1: joined/ })).toBeVisible();
  await emptyTray(request);
});

test('a table is ordered, filtered, narrowed, walked and saved; the URL keeps how it is looked at', async ({
  page,
}) => {
  await page.goto('/fabric?part=logins');
  const table = page.getByRole('table', { name: 'Logins of fabric A' });
  const cells = (column: number) => table.locator(`tbody td:nth-child(${column})`);
  const fcid = 4;
  await expect(cells(fcid).first()).toBeVisible();
  const before = await cells(fcid).allTextContents();
  const ordered = [...before].sort();

  await table.getByRole('button', { name: 'FCID' }).click();
  await expect(table.getByRole('columnheader', { name: 'FCID' })).toHaveAttribute('aria-sort', 'ascending');
  await expect(cells(fcid)).toHaveText(ordered);
  await table.getByRole('button', { name: 'FCID' }).click();
  await expect(cells(fcid)).toHaveText([...ordered].reverse());

  await page.getByRole('textbox', { name: 'Filter Logins of fabric A' }).fill('hba0 deck');
  await expect(table.locator('tbody tr')).toHaveCount(4);
  await expect(page.getByText(`4 of ${before.length} lines`)).toBeVisible();
  await page.getByRole('button', { name: 'Columns and CSV of Logins of fabric A' }).click();
  await page.getByRole('checkbox', { name: 'Node name' }).uncheck();
  await expect(table.getByRole('columnheader', { name: 'Node name' })).toHaveCount(0);

  const saved = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save as CSV' }).click();
  const file = await saved;
  expect(file.suggestedFilename()).toBe('logins-of-fabric-a.csv');
  const lines = readFileSync(await file.path(), 'utf8')
    .trim()
    .split(/\r?\n/);
  expect(lines[0]).toBe('State,Port name,FCID,Plugged in,Gb/s,Alias,Belongs to');
  expect(lines).toHaveLength(5);

  await page.reload();
  await expect(table.locator('tbody tr')).toHaveCount(4);
  await expect(table.getByRole('columnheader', { name: 'Node name' })).toHaveCount(0);
  await expect(table.getByRole('columnheader', { name: 'FCID' })).toHaveAttribute('aria-sort', 'descending');

  await table.locator('tbody tr').first().focus();
  await page.keyboard.press('End');
  await expect(table.locator('tbody tr').last()).toBeFocused();
  await page.keyboard.press('ArrowUp');
  await expect(table.locator('tbody tr').nth(2)).toBeFocused();

  await page.getByRole('textbox', { name: 'Filter Logins of fabric A' }).fill('nothing like it');
  await page.getByRole('button', { name: `Show all ${before.length}` }).click();
  await expect(table.locator('tbody tr')).toHaveCount(before.length);
});

test('the theme is switched by hand and kept', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Dark', exact: true }).click();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark');
  await page.reload();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark');
  expect(await page.evaluate(() => getComputedStyle(document.body).backgroundColor)).toBe('rgb(12, 19, 16)');
});

test('no page asks another host for anything', async ({ page, baseURL }) => {
  const foreign: string[] = [];
  const problems: string[] = [];
  page.on('request', (request) => {
    if (!request.url().startsWith(baseURL!) && !request.url().startsWith('data:')) foreign.push(request.url());
  });
  page.on('console', (message) => message.type() === 'error' && problems.push(message.text()));
  page.on('pageerror', (error) => problems.push(error.message));
  for (const colorScheme of ['light', 'dark'] as const) {
    await page.emulateMedia({ colorScheme });
    for (const path of [
      '/',
      '/capacity',
      '/findings',
      '/changes',
      '/?sheet=raid-group.create',
      '/?sheet=volume.create',
      '/?sheet=lab',
    ]) {
      await page.goto(path);
      await page.waitForTimeout(500);
    }
  }
  expect(foreign).toEqual([]);
  expect(problems).toEqual([]);
});

test('the estate is exported from the list of changes, a change from its sheet', async ({ page, request }) => {
  const id = await carryOut(request, 'To be saved', [{ do: 'host.rescan', host: 'gate-1' }]);
  await page.goto(`/changes?sheet=change&with=${encodeURIComponent(JSON.stringify({ id }))}`);
  const saved = async (name: string) => {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name, exact: true }).click(),
    ]);
    const chunks: Buffer[] = [];
    for await (const chunk of await download.createReadStream()) chunks.push(chunk as Buffer);
    return Buffer.concat(chunks).toString();
  };
  expect(await saved('YAML')).toMatch(/^trabes: 1\nestate:/);
  expect(JSON.parse(await saved('JSON'))).toMatchObject({ trabes: 1 });
  expect(await saved('Save as a file')).toContain('title: To be saved');
});

test('an empty instance says how to begin, and each empty place what to do next', async ({ page }) => {
  const { spawn } = await import('node:child_process');
  const port = String(Number(process.env.E2E_PORT) + 1);
  const server = spawn(process.execPath, ['scripts/serve.mjs'], {
    stdio: 'ignore',
    env: {
      ...process.env,
      TRABES_DB: `${process.env.E2E_DB}-empty-${Date.now()}`,
      TRABES_FILL: 'empty',
      TRABES_PORT: port,
    },
  });
  try {
    await expect(async () => expect((await fetch(`http://127.0.0.1:${port}/api/v1/health`)).ok).toBe(true)).toPass({
      timeout: 20_000,
    });
    await page.goto(`http://127.0.0.1:${port}/changes`);
    await expect(page.getByText('No change yet.')).toBeVisible();
    await page.goto(`http://127.0.0.1:${port}/`);
    await page.getByRole('button', { name: 'Put up the bare machines' }).click();
    await expect(page.getByText('180', { exact: true })).toBeVisible();
    await page.getByRole('button', { name: 'Register one' }).click();
    await expect(page.getByRole('heading', { name: 'Register a host' })).toBeVisible();
    await page.getByRole('button', { name: 'Put away' }).first().click();
    await page.getByRole('button', { name: 'Carve a RAID group' }).last().click();
    await expect(page.getByText('60 drives, 60 free.')).toBeVisible();
  } finally {
    server.kill('SIGTERM');
  }
});
