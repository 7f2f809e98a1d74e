import { expect, test } from './test';
import { addToDraft, advance, choose, emptyTray, runDraft, setClock } from './steps';

test.use({ lab: 'a lost array' });

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

test('a workload is copied to the other harbour, its line breaks and mends, and the other site takes over', async ({
  page,
  request,
}) => {
  test.setTimeout(180_000);
  const run = () => runDraft(page, request);
  const fibre = (clear: boolean) =>
    request.post('/api/v1/lab/faults', { data: { kind: 'site-link-down', component: 'dark fibre', clear } });

  // What has no copy elsewhere says what a loss would leave: nothing.
  await page.goto('/protection');
  const lanes = page.getByRole('listbox', { name: 'Workloads by how they are protected' });
  await lanes.getByRole('option', { name: /^Crew rota/ }).click();
  const where = page.getByRole('region', { name: 'Where the copies stand' });
  await expect(where.getByText(/Were lintel-1 lost now/)).toContainText('nothing');
  await where.getByRole('button', { name: 'Copy it to another site' }).click();
  await choose(page, 'To array', 'lintel-2');
  await choose(page, 'Its pool', /^quay/);
  await choose(page, 'Over link', /^dark fibre/);
  await page.getByLabel('Loses at most').fill('10 min');
  await expect(
    page
      .getByRole('complementary')
      .getByText(/it needs .* at its busiest/)
      .first(),
  ).toBeVisible();
  await addToDraft(page);
  await run();
  // More than 7 TiB go over the line first.
  await advance(request, 3 * 3600);

  await page.goto('/protection?part=elsewhere');
  const table = page.getByRole('table', { name: 'Replications' });
  await table.getByRole('button', { name: 'Crew rota' }).click();
  await expect(table.getByRole('row', { name: /Crew rota Nordkai to Molenhaven protected/ })).toBeVisible();
  const pair = page.getByRole('region', { name: 'Both sides' });
  await expect(pair.getByText('closed to hosts')).toBeVisible();
  await expect(pair.getByText(/Were Nordkai lost now/)).toContainText('back to');
  await expect(page.getByRole('table', { name: 'Cycles', exact: true }).getByRole('row').nth(2)).toBeVisible();

  const lost = page.getByRole('table', { name: 'Were a site lost now' });
  await expect(lost.getByRole('row', { name: /^Crew rota Nordkai goes on back to .* at Molenhaven/ })).toBeVisible();
  await expect(lost.getByRole('row', { name: /^Virtual deck .* goes on goes on/ })).toBeVisible();

  // The fibre is cut: both say so, and the finding comes; mended it catches up by itself.
  expect((await fibre(false)).ok()).toBe(true);
  await advance(request, 1800);
  await expect(table.getByRole('row', { name: /Crew rota .* broken off/ })).toBeVisible();
  await expect(pair.getByText(/do not reach each other: dark fibre is down/)).toBeVisible();
  await page.goto('/findings');
  await expect(page.getByText(/Crew rota stopped at .*: dark fibre is down/).first()).toBeVisible();
  expect((await fibre(true)).ok()).toBe(true);
  await advance(request, 1800);
  await page.goto('/protection?part=elsewhere');
  await table.getByRole('button', { name: 'Crew rota' }).click();
  await expect(table.getByRole('row', { name: /Crew rota .* protected/ })).toBeVisible();

  // Nordkai burns: failing over asks for what must be known, and says what is lost.
  await request.post('/api/v1/lab/faults', { data: { kind: 'array-down', component: 'lintel-1' } });
  await advance(request, 60);
  await pair.getByRole('button', { name: 'Fail over' }).click();
  const sheet = page.getByRole('complementary');
  await expect(sheet.getByText(/about .* would be lost/).first()).toBeVisible();
  await page.getByLabel('Type its name').fill('Crew rota');
  await expect(sheet.getByText(/Nordkai cannot be asked/).first()).toBeVisible();
  await choose(page, 'The source is kept off', /the array is off/);
  await addToDraft(page);
  await run();
  await page.goto('/protection?part=elsewhere');
  await table.getByRole('button', { name: 'Crew rota' }).click();
  await expect(table.getByRole('row', { name: /Crew rota .* failed over/ })).toBeVisible();
  await expect(pair.getByText('open to hosts')).toBeVisible();

  // The old source comes back closed to hosts, and waits for somebody to decide.
  await request.post('/api/v1/lab/faults', { data: { kind: 'array-down', component: 'lintel-1', clear: true } });
  await advance(request, 60);
  await expect(pair.getByText('closed to hosts')).toBeVisible();
  await expect(pair.getByRole('button', { name: 'Undo the failover' })).toBeVisible();
});
