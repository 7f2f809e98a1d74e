import AxeBuilder from '@axe-core/playwright';
import { expect, test } from './test';
import { addToDraft, advance, emptyTray, runDraft, setClock } from './steps';

test.use({ lab: 'load' });

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

test('the spike is found on the first page, who caused it, a limit is found and run, and the spike is gone', async ({
  page,
  request,
}) => {
  test.setTimeout(180_000);
  await page.goto('/load');
  const needs = page.getByRole('region', { name: 'Needs somebody' });
  await expect(needs.getByText(/hides it/).first()).toBeVisible();
  await needs.getByRole('button', { name: 'scanner', exact: true }).click();

  // What bound it, and who added to it.
  const beside = page.getByRole('region', { name: 'Beside' });
  await expect(beside.getByText(/lintel-1 b was full/)).toBeVisible();
  const first = beside.getByRole('row').nth(1);
  await expect(first.getByRole('button', { name: 'stores-1' })).toBeVisible();
  await expect(first.getByText('100 %')).toBeVisible();

  // The solver refuses what no limit can do, and proposes what can.
  await beside.getByRole('button', { name: 'Find a limit for stores-1' }).click();
  await expect(beside.getByRole('heading', { name: 'stores-1' })).toBeVisible();
  const target = beside.getByLabel('p95 of scanner, ms');
  await target.fill('1');
  await beside.getByRole('button', { name: 'Find the limit' }).click();
  await expect(beside.getByText(/Even without stores-1/)).toBeVisible();
  await target.fill('40');
  await beside.getByRole('button', { name: 'Find the limit' }).click();
  await expect(beside.getByText(/keeps it at .* Tried with/)).toBeVisible();
  await expect(beside.getByRole('row', { name: /Worst wait, scanner/ })).toBeVisible();

  // I/O by I/O, in a worker.
  await beside.getByRole('button', { name: 'Simulate' }).click();
  await expect(beside.getByText(/I\/Os in .* seed 1/)).toBeVisible({ timeout: 60_000 });

  // Arrivals as a trace has it: what cannot be read or waits elsewhere is told, the others are carried.
  const simulation = beside.getByRole('region', { name: 'Simulation' });
  await simulation.getByLabel('As a trace has it').setInputFiles({
    name: 'night.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(
      [
        'time,volume,offset,size,type',
        ...Array.from({ length: 400 }, (_, k) => `${k / 100},stores-1,${k * 65536},65536,read`),
        '3,stores-1,0,65536,read',
        '4.5,gangway,0,4096,read',
        '4.6,stores-1,0,none,read',
      ].join('\n'),
    ),
  });
  await expect(simulation.getByText(/night\.csv: 400 of stores-1; the others by profile/)).toBeVisible();
  await expect(simulation.getByText('Left out: 1 of gangway.')).toBeVisible();
  await expect(simulation.getByText(/Line 402: its time 3 lies before/)).toBeVisible();
  await expect(simulation.getByText(/Line 404: its size/)).toBeVisible();
  await simulation.getByRole('button', { name: 'Simulate' }).click();
  await expect(simulation.getByRole('row', { name: /^stores-1/ })).toBeVisible({ timeout: 60_000 });
  await simulation.getByRole('button', { name: 'By profile again' }).click();
  await expect(simulation.getByText('by profile', { exact: true })).toBeVisible();

  await beside.getByRole('button', { name: 'Set the limit' }).click();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('stores-1-limit');
  await addToDraft(page);
  await runDraft(page, request);

  // A day later the machines have restarted again, and the scanners did not wait.
  for (let k = 0; k < 25; k++) await advance(request, 3600);
  const fleet = (await (await request.get('/api/v1/load/fleet?span=86400')).json()) as {
    subjects: { volume: { name: string; mostLatencyS: number; held: number }[] };
  };
  const of = (name: string) => fleet.subjects.volume.find((one) => one.name === name)!;
  expect(of('scanner').mostLatencyS).toBeLessThan(0.1);
  expect(of('stores-1').held).toBeGreaterThan(0);
  await page.goto('/load?part=limits');
  await expect(page.getByRole('row', { name: /stores-1-limit/ })).toBeVisible();
  // The rota's old limit is a finding, with what would mend it.
  await page.goto('/findings');
  await expect(page.getByText(/crew-rota is held back \d+ h a day by rota-quiet/)).toBeVisible();
});

test('a trace with two bad lines: they are told, the others become what is known of the volume', async ({
  page,
  request,
}) => {
  await page.goto('/load');
  await page.getByRole('button', { name: 'Read a trace' }).click();
  const sheet = page.getByRole('complementary');
  await sheet
    .getByLabel('Trace of block I/O')
    .fill(
      [
        'time,volume,offset,size,type',
        '0,lintel-1/scanner,0,8192,read',
        '5,lintel-1/scanner,9000000,8192,write',
        '4,lintel-1/scanner,0,8192,read',
        '6,lintel-1/scanner,0,-1,read',
        '10,lintel-1/scanner,8192,8192,read',
      ].join('\n'),
    );
  await sheet
    .getByRole('button', { name: /^(Read|Check)/ })
    .first()
    .click();
  await expect(sheet.getByText(/Line 4: its time 4 lies before/)).toBeVisible();
  await expect(sheet.getByText(/Line 5: its size/)).toBeVisible();
  await expect(sheet.getByText(/scanner: Files/)).toBeVisible();
  expect((await request.get('/metrics')).headers()['content-type']).toContain('openmetrics');
  expect(await (await request.get('/metrics')).text()).toMatch(
    /trabes_volume_latency_seconds\{.*quantile="0.95"\}[^]*# EOF\n$/,
  );
});

test('measured rates are read as well: a row that is none is told, the rest becomes what is known', async ({
  page,
}) => {
  await page.goto('/load?sheet=io-trace');
  const sheet = page.getByRole('complementary');
  await sheet
    .getByLabel('Trace of block I/O')
    .fill(
      ['time,volume,reads,writes,bytes', '0,lintel-1/scanner,100,0,819200', '60,lintel-1/scanner,many,0,0'].join('\n'),
    );
  await sheet
    .getByRole('button', { name: /^(Read|Check)/ })
    .first()
    .click();
  await expect(sheet.getByText(/Line 3: its reads are no rate/)).toBeVisible();
  await expect(sheet.getByText(/scanner: Files/)).toBeVisible();
});

test('how busy a volume is by the hour is said in words, refused where it is unclear, and kept', async ({
  page,
  request,
}) => {
  await page.goto('/load');
  await page.getByRole('button', { name: 'Say what hosts do' }).click();
  await page.getByRole('checkbox', { name: /^berths,/ }).check();
  const hours = page.getByLabel('Or by the hour');
  await hours.fill('mornings');
  await expect(page.getByText(/“mornings” names no days, hours and how busy they are/).first()).toBeVisible();
  await hours.fill('Mon-Fri 06-12: 9, else: 1');
  await expect(page.getByText('Busiest Monday 06:00 UTC, 3.7 times its mean.')).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request);
  const { items } = (await (await request.get('/api/v1/volumes')).json()) as {
    items: { name: string; activity: { week: string } }[];
  };
  expect(items.find(({ name }) => name === 'berths')!.activity.week).toBe('Mon-Fri 06-12: 9, else: 1');
  await page.goto('/load');
  await page.getByRole('button', { name: 'What is left' }).click();
  await expect(page.getByRole('row', { name: /^leased line link between sites/ })).toBeVisible();
});

test('the Span shows load when it is asked to, and the address keeps it', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'By load' }).click();
  await expect(page.getByText('IO/s, p95, paths')).toBeVisible();
  await expect(page).toHaveURL(/figures=load/);
  const tickets = page.getByRole('option', { name: /^tickets,/ });
  await expect(tickets.getByText(/ms$/)).toBeVisible();
  await page.getByRole('button', { name: 'By load' }).click();
  await expect(page.getByText('written, size, paths')).toBeVisible();
});

test('heat: where it lies, and what placing by heat would gain', async ({ page }) => {
  await page.goto('/load?part=heat');
  const hold = page.getByRole('region', { name: 'lintel-1 hold' });
  await expect(hold.getByText(/placed by heat it would take/)).toBeVisible();
  await expect(hold.getByRole('table', { name: 'Classes of hold' }).getByRole('row')).toHaveCount(3);
});

for (const theme of ['light', 'dark'] as const)
  test(`every part is sound for those who cannot see it (${theme})`, async ({ page }) => {
    await page.emulateMedia({ colorScheme: theme });
    for (const path of [
      '/load',
      '/load?part=volumes',
      '/load?part=volumes&side=limit',
      '/load?part=resources',
      '/load?part=heat',
      '/load?part=limits',
    ]) {
      await page.goto(path);
      await expect(page.getByRole('heading', { name: 'Load' })).toBeVisible();
      await page.waitForLoadState('networkidle').catch(() => undefined);
      await page.waitForTimeout(700);
      const { violations } = await new AxeBuilder({ page })
        .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
        .analyze();
      expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]!.html}`)).toEqual([]);
    }
  });

test('by keyboard alone: from the first page to whoever asks too much and its limit', async ({ page }) => {
  await page.goto('/load');
  const spike = page.getByRole('region', { name: 'Needs somebody' }).getByRole('button').first();
  await expect(spike).toBeVisible();
  await spike.focus();
  await page.keyboard.press('Enter');
  const limit = page.getByRole('region', { name: 'Beside' }).getByRole('button', { name: 'Limit it' });
  await expect(limit).toBeVisible();
  await limit.focus();
  await page.keyboard.press('Enter');
  const most = page.getByLabel('Most IO/s');
  await expect(most).toBeVisible();
  await most.focus();
  await page.keyboard.press('ControlOrMeta+A');
  await page.keyboard.type('20000');
  await expect(page.getByText('20 k hard').first()).toBeVisible();
});

test('a tiered pool is placed by heat: refused where there is one class, then run, and nothing is left to gain', async ({
  page,
  request,
}) => {
  test.setTimeout(120_000);
  await page.goto(
    `/?sheet=pool.place-by-heat&with=${encodeURIComponent(JSON.stringify({ array: 'lintel-1', name: 'quay' }))}`,
  );
  await expect(page.getByText(/quay has one class of media/).first()).toBeVisible();
  await page.goto('/load?part=heat');
  await expect(
    page.getByRole('region', { name: 'lintel-1 hold' }).getByText(/takes [1-9][\d.]* ms at the media/),
  ).toBeVisible();
  await page.getByRole('region', { name: 'lintel-1 hold' }).getByRole('button', { name: 'Place by heat' }).click();
  await addToDraft(page);
  await runDraft(page, request, 600);
  for (let k = 0; k < 12; k++) await advance(request, 3600);
  await page.goto('/load?part=heat');
  await expect(
    page
      .getByRole('region', { name: 'lintel-1 hold' })
      .getByText(/takes 0\.1\d? ms at the media.* (0|< 1) % of the heat would move/),
  ).toBeVisible();
});

test('a tier policy: refused where the pool has no such class, then set, and what may not lie on flash leaves it', async ({
  page,
  request,
}) => {
  test.setTimeout(120_000);
  const set = (shares: string[]) =>
    `/load?part=heat&sheet=tier-policy.create&with=${encodeURIComponent(
      JSON.stringify({ array: 'lintel-1', name: 'stores-below', volumes: ['stores-1'], shares }),
    )}`;
  await page.goto(set(['ssd-sas at least 20']));
  await expect(page.getByText(/wants at least 20 % on SAS flash, of which hold has none/).first()).toBeVisible();
  await page.goto(set(['ssd-nvme never']));
  await expect(page.getByText(/Tier policy stores-below on stores-1: nothing on NVMe flash/)).toBeVisible();
  await addToDraft(page);
  await page.goto('/load?part=heat');
  await page.getByRole('region', { name: 'lintel-1 hold' }).getByRole('button', { name: 'Place by heat' }).click();
  await addToDraft(page);
  await runDraft(page, request, 600);
  for (let k = 0; k < 24; k++) await advance(request, 3600);
  await page.goto('/load?part=heat');
  const row = page.getByRole('table', { name: 'Volumes of hold' }).getByRole('row', { name: /^stores-1/ });
  await expect(row.getByText('stores-below')).toBeVisible();
  await expect(row.getByRole('cell').nth(1)).toHaveText('0 %');
  const policies = page.getByRole('table', { name: 'Tier policies' });
  await expect(policies.getByRole('row', { name: /stores-below/ })).toContainText('nothing on NVMe flash');
});
