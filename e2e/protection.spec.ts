import { expect, test } from './test';
import { addToDraft, advance, choose, emptyTray, runDraft, setClock } from './steps';

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

const given = (value: object) => encodeURIComponent(JSON.stringify(value));

test('an application is protected, loses a file, and gets it back from the night before; then all of it', async ({
  page,
  request,
}) => {
  test.setTimeout(180_000);
  const run = () => runDraft(page, request, 600);

  // The rota has no plan: it is the worst lane, and says so.
  await page.goto('/protection');
  const lanes = page.getByRole('listbox', { name: 'Workloads by how they are protected' });
  await expect(lanes.getByRole('option').first()).toHaveAccessibleName(/^Crew rota, no plan/);
  await lanes.getByRole('option', { name: /^Crew rota/ }).click();
  await page
    .getByRole('region', { name: 'What is protected' })
    .getByRole('button', { name: 'Protect with a plan' })
    .click();
  await choose(page, 'Plan', /^Harbour day/);
  await expect(
    page
      .getByRole('complementary')
      .getByText(/After a month: \d+ copies/)
      .first(),
  ).toBeVisible();
  await addToDraft(page);
  await run();
  await page.goto('/protection');
  await expect(lanes.getByRole('option', { name: /^Crew rota, Harbour day/ })).toBeVisible();

  // Somebody at the host writes a file, and the night passes.
  await page.goto(`/?sheet=host&with=${given({ host: 'gate-2' })}`);
  await page.getByLabel('File to write').fill('rota/april.db');
  await page.getByLabel('Its size').fill('64 MiB');
  await page.getByLabel('Where to').selectOption({ label: '/srv/crew-rota' });
  await page.getByRole('button', { name: 'Write', exact: true }).click();
  const files = page.getByRole('table', { name: 'Files' });
  await expect(files.getByRole('row', { name: /rota\/april\.db/ })).toBeVisible();
  await advance(request, 10 * 3600);
  await files.getByRole('button', { name: 'Delete rota/april.db' }).click();
  await expect(files.getByRole('row', { name: /rota\/april\.db/ })).toHaveCount(0);

  // A copy of before is shown to the host, and the file is taken out of it.
  await page.goto('/protection');
  await lanes.getByRole('option', { name: /^Crew rota/ }).click();
  const points = page.getByRole('table', { name: 'Restore points' });
  await points.getByRole('row').nth(2).getByRole('button').first().click();
  const point = page.getByRole('region', { name: 'Restore point', exact: true });
  await expect(point.getByText('gone now')).toBeVisible();
  await expect(point.getByText(/Going back drops/)).toBeVisible();
  await point.getByRole('button', { name: 'Show to a host' }).click();
  await choose(page, 'Host', 'gate-2');
  await addToDraft(page);
  await run();
  await page.goto(`/?sheet=host&with=${given({ host: 'gate-2' })}`);
  await files.getByRole('button', { name: 'Take out rota/april.db' }).click();
  await choose(page, 'To', /crew-rota(?!-of)/);
  await addToDraft(page);
  await run();
  await page.goto(`/?sheet=host&with=${given({ host: 'gate-2' })}`);
  await expect(files.getByRole('row', { name: /rota\/april\.db \/srv\/crew-rota/ })).toBeVisible();

  // A copy is locked; nobody deletes it, and the form says until when.
  await page.goto('/protection');
  await lanes.getByRole('option', { name: /^Crew rota/ }).click();
  await points.getByRole('row').nth(1).getByRole('button').first().click();
  await point.getByRole('button', { name: 'Lock', exact: true }).click();
  await page.getByLabel('Until', { exact: true }).fill('2 d');
  await expect(page.getByRole('complementary').getByText(/Nobody can delete them before/)).toBeVisible();
  await addToDraft(page);
  await run();
  await page.goto('/protection');
  await lanes.getByRole('option', { name: /^Crew rota/ }).click();
  await expect(points.getByRole('row').nth(1)).toContainText('locked to');
  await points.getByRole('row').nth(1).getByRole('button').first().click();
  await point.getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByRole('complementary').getByRole('alert').first()).toContainText('is immutable until');
  await page.keyboard.press('Escape');

  // A copy is proven where nobody works with the data.
  await point.getByRole('button', { name: 'Prove' }).click();
  await choose(page, 'Host', 'keel-backup');
  await addToDraft(page);
  await run();
  await page.goto('/protection');
  await lanes.getByRole('option', { name: /^Crew rota/ }).click();
  // The line may have made another meanwhile.
  await expect(points.getByRole('row').filter({ hasText: 'good' }).first()).toBeVisible();

  // The whole workload goes back: hosts are unmounted, and mounted where they were.
  await points.getByRole('row').nth(4).getByRole('button').first().click();
  await point.getByRole('button', { name: 'Go back' }).click();
  await expect(page.getByRole('complementary').getByText(/Unmounted and mounted again/)).toBeVisible();
  await addToDraft(page);
  await run();
  await page.goto('/protection');
  await lanes.getByRole('option', { name: /^Crew rota/ }).click();
  await expect(points.getByRole('row', { name: /before-/ }).first()).toBeVisible();
  const { items } = (await (await request.get('/api/v1/devices')).json()) as {
    items: { mountPoint: string | null }[];
  };
  expect(items.map(({ mountPoint }) => mountPoint)).toContain('/srv/crew-rota');
});

test('by keyboard alone: the lanes are walked, a copy is made, and found by its time', async ({ page, request }) => {
  await page.goto('/protection');
  const lanes = page.getByRole('listbox', { name: 'Workloads by how they are protected' });
  await lanes.focus();
  await page.keyboard.press('End');
  await expect(lanes.getByRole('option', { selected: true })).toHaveAccessibleName(/^Radar archive/);
  await expect(page.getByRole('heading', { name: 'Radar archive' })).toBeVisible();
  await page.keyboard.press('/');
  await page.keyboard.type('copy now');
  await expect(page.getByRole('option', { name: /^Copy now/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Copy now' })).toBeVisible();
  await page.getByLabel('Workload', { exact: true }).press('Enter');
  await page.keyboard.type('Accounts');
  await page.keyboard.press('Enter');
  // The list takes the focus back to its field when it closes.
  await expect(page.getByLabel('Workload', { exact: true })).toHaveText('Accounts');
  await expect(page.getByLabel('Workload', { exact: true })).toBeFocused();
  await page.getByLabel('Name', { exact: true }).focus();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('before-closing');
  await expect(page.getByText(/Copy Accounts as before-closing: 1 volume at one instant/)).toBeVisible();
  await page.keyboard.press('Control+Enter');
  await expect(page.getByRole('heading', { name: 'Copy now' })).toBeHidden();
  const { change } = (await (await request.get('/api/v1/tray')).json()) as { change: { operations: { do: string }[] } };
  expect(change.operations[0]).toMatchObject({ do: 'snapshot.create', workload: 'Accounts', name: 'before-closing' });
  await emptyTray(request);

  await page.keyboard.press('/');
  await page.keyboard.type('tickets yesterday 18:00');
  await expect(page.getByRole('option', { name: /2031-04-1\d-1800/ }).first()).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Restore point', exact: true })).toContainText(/18:00/);
});

test('plans and promises are tables; calendars take the schedules', async ({ page, request }) => {
  await page.goto('/protection?part=plans');
  await expect(page.getByRole('row', { name: /Harbour day.*SU 04:00/ })).toBeVisible();
  await page.goto('/protection?part=promises');
  await expect(page.getByRole('row', { name: /Accounts.*no agent at ledger-1/ })).toBeVisible();
  const calendar = await request.get('/api/v1/protection/calendar');
  expect(calendar.headers()['content-type']).toContain('text/calendar');
  expect(await calendar.text()).toMatch(/BEGIN:VEVENT[\s\S]*RRULE:FREQ=WEEKLY;[\s\S]*END:VCALENDAR/);
});
