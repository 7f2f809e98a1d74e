import { expect, test } from './test';
import { addToDraft, advance, choose, emptyTray, runDraft, setClock } from './steps';

test.use({ lab: 'partners' });

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

const SHOWN = 'between-the-harbours-1';
const EXPECTED = 'between-the-harbours-2';

test('two arrays are introduced with a wrong secret, which is found and mended; a line is weighed before it is used', async ({
  page,
  request,
}) => {
  test.setTimeout(120_000);
  await page.goto('/protection?part=elsewhere');
  const partners = page.getByRole('table', { name: 'Partners' });
  await expect(partners.getByRole('row', { name: /lintel-1 lintel-2 both agree/ })).toBeVisible();

  const sheet = page.getByRole('complementary');
  const introduce = async (array: string, peer: RegExp, addresses: string, shown: string, expected: string) => {
    await choose(page, 'Array', new RegExp(`^${array}`));
    await choose(page, 'Partner', peer);
    await sheet.getByLabel('Its addresses', { exact: true }).fill(addresses);
    await sheet.getByLabel('Shows the secret').fill(shown);
    await sheet.getByLabel('Expects the secret').fill(expected);
  };
  await page.getByRole('button', { name: 'Introduce an array to another' }).click();
  // Nobody answers there: found before anything is kept.
  await introduce('purlin-1', /^lintel-1/, '10.40.1.99', SHOWN, EXPECTED);
  await expect(sheet.getByText(/10\.40\.1\.99 does not answer/).first()).toBeVisible();
  await sheet.getByLabel('Its addresses', { exact: true }).fill('10.40.1.11');
  await expect(sheet.getByText(/port .* answers; clocks differ by 0 s/i).first()).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/protection?part=elsewhere');
  await expect(
    partners.getByRole('row', { name: /purlin-1 lintel-1 lintel-1 was not told of purlin-1 yet/ }),
  ).toBeVisible();

  // The other side: what it shows is not what purlin-1 expects.
  await partners.getByRole('button', { name: 'Answer purlin-1, lintel-1' }).click();
  await sheet.getByLabel('Its addresses', { exact: true }).fill('10.40.1.21');
  await sheet.getByLabel('Shows the secret').fill('between-the-harbours-3');
  await sheet.getByLabel('Expects the secret').fill(SHOWN);
  await expect(sheet.getByText(/purlin-1 expects another secret than lintel-1 would show/).first()).toBeVisible();
  await expect(sheet.getByRole('button', { name: 'Correct it at purlin-1' })).toBeVisible();
  await sheet.getByLabel('Shows the secret').fill(EXPECTED);
  await expect(sheet.getByText(/purlin-1 expects another secret/)).toHaveCount(0);
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/protection?part=elsewhere');
  await expect(partners.getByRole('row', { name: /purlin-1 lintel-1 both agree/ })).toBeVisible();

  // Which recovery points a line would hold, and what the first copy costs each way.
  await page.getByRole('button', { name: 'What would a line hold?' }).click();
  const planner = page.getByRole('region', { name: 'Planner' });
  await expect(planner.getByText(/It holds .* and more all week|No recovery point/)).toBeVisible();
  await expect(planner.getByText('from a copy that is there')).toBeVisible();
  await planner.getByRole('button', { name: '15 min', exact: true }).click();
  // Beside the others on the line it is played through a day.
  const day = planner.getByRole('table', { name: 'The scarcest day of the line' });
  await expect(day.getByRole('row', { name: /weighed here 7 min 30 s 15 min/ })).toBeVisible();
  await planner.getByRole('button', { name: 'Copy it so' }).click();
  await expect(page.getByLabel('Loses at most')).toHaveValue('15 min');
});

test('a mirror loses its line and is whole again; its failover is rehearsed with a report', async ({
  page,
  request,
}) => {
  test.setTimeout(120_000);
  await page.goto('/protection?part=elsewhere');
  const table = page.getByRole('table', { name: 'Replications' });
  await table.getByRole('button', { name: 'Cargo booking' }).click();
  const pair = page.getByRole('region', { name: 'Both sides' });
  await expect(pair.getByText(/Each write takes 0\.\d\d ms more of 5 ms allowed/)).toBeVisible();
  await expect(pair.getByText(/Were Nordkai lost now/)).toContainText('nothing lost');

  const fibre = (clear: boolean) =>
    request.post('/api/v1/lab/faults', { data: { kind: 'site-link-down', component: 'dark fibre', clear } });
  expect((await fibre(false)).ok()).toBe(true);
  await advance(request, 1800);
  await expect(table.getByRole('row', { name: /Cargo booking .* broken off/ })).toBeVisible();
  await expect(pair.getByText(/To be whole again takes/)).toBeVisible();
  await expect(pair.getByText(/^Log: .* of 8 GiB/)).toBeVisible();
  expect((await fibre(true)).ok()).toBe(true);
  await advance(request, 1800);
  await expect(table.getByRole('row', { name: /Cargo booking .* mirrored/ })).toBeVisible();

  await pair.getByRole('button', { name: 'Rehearse' }).click();
  const sheet = page.getByRole('complementary');
  await choose(page, 'Host', /^yard-1/);
  await expect(sheet.getByText(/back within/i).first()).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/protection?part=elsewhere');
  const drills = page.getByRole('table', { name: 'Drills' });
  const running = drills.getByRole('row', { name: /still stands/ });
  await running.getByRole('button', { name: /^drill-/ }).click();
  const drill = page.getByRole('region', { name: 'Drill' });
  await expect(drill.getByText('read every file with its checksum')).toBeVisible();
  const report = drill.getByRole('link', { name: 'Report as Markdown' });
  const text = await (await request.get((await report.getAttribute('href'))!)).text();
  expect(text).toContain('## Cargo booking');
  expect(text).toContain('| in all |');
  await drill.getByRole('button', { name: 'End it' }).click();
  await expect(sheet.getByText(/made for it go/).first()).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/protection?part=elsewhere');
  await expect(drills.getByRole('row', { name: /still stands/ })).toHaveCount(0);
  await expect(drills.getByRole('row', { name: /Cargo booking/ })).toHaveCount(2);
});

test('a reserve that does not fit is refused with what would, and a smaller one is taken', async ({ page }) => {
  const given = {
    array: 'lintel-1',
    volume: 'timetable-1',
    to: 'lintel-2',
    pool: 'quay',
    link: 'dark fibre',
    rpo: '4 h',
  };
  await page.goto(
    `/?sheet=replication.create&with=${encodeURIComponent(JSON.stringify({ ...given, sourceReserve: '40' }))}`,
  );
  const sheet = page.getByRole('complementary');
  await expect(sheet.getByText(/40 % of tide is .*, .* are free; at most \d+ %\./).first()).toBeVisible();
  await page.getByLabel('Reserve at the source, %').fill('2');
  await expect(sheet.getByText(/2 % of tide is .*; it takes/).first()).toBeVisible();
  await addToDraft(page);
});
