import AxeBuilder from '@axe-core/playwright';
import { expect, test } from './test';
import { addToDraft, advance, choose, emptyTray, runDraft, setClock } from './steps';

test.use({ lab: 'outside' });
test.describe.configure({ mode: 'serial' });

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

const panel = (page: import('@playwright/test').Page, name: string) =>
  page.getByRole('complementary', { name: `Outside LUN ${name}` });

test('what stands against a LUN is said with what mends it: a host at work, a reservation, nothing known yet', async ({
  page,
}) => {
  await page.goto('/moves?part=outside');
  const table = page.getByRole('table', { name: 'LUNs found' });
  await expect(table.getByRole('row', { name: /corbel-9:3.*2 TiB.*xfs file system.*now.*keel-backup/ })).toBeVisible();
  await table.getByRole('button', { name: 'corbel-9:3' }).click();
  await expect(panel(page, 'corbel-9:3').getByText(/Written 0 s ago; stop the host/)).toBeVisible();
  await panel(page, 'corbel-9:3')
    .getByRole('button', { name: /^Unmount/ })
    .click();
  await expect(page.getByRole('heading', { name: 'Unmount a device' })).toBeVisible();
  await page.keyboard.press('Escape');
  await table.getByRole('button', { name: 'corbel-9:4' }).click();
  await expect(panel(page, 'corbel-9:4').getByText(/Another host holds a reservation: cargo-db-2/)).toBeVisible();
  await expect(panel(page, 'corbel-9:4').getByRole('button', { name: 'Release it at cargo-db-2' })).toBeVisible();
  await expect(panel(page, 'corbel-9:4').getByRole('button', { name: 'Bring it in with its data' })).toHaveCount(0);
});

test('a LUN comes in with its data: its host goes on from here, the trace has one hop more; then it is given back', async ({
  page,
  request,
}) => {
  await page.goto('/moves?part=outside');
  await page.getByRole('button', { name: 'corbel-9:0' }).click();
  await panel(page, 'corbel-9:0').getByRole('button', { name: 'Bring it in with its data' }).click();
  await expect(page.getByText(/Show corbel-9:0 as chronicle: 4 TiB one to one, nothing is copied/)).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/moves?part=outside');
  const row = page.getByRole('row', { name: /^corbel-9:0/ });
  await expect(row).toContainText('serves hosts from here');
  await expect(row).toContainText('as chronicle');
  const found = (await (await request.get('/api/v1/outside')).json()) as {
    luns: { name: string; front: { id: string } | null }[];
  };
  const front = found.luns.find(({ name }) => name === 'corbel-9:0')!.front!.id;
  const traced = (await (await request.get(`/api/v1/trace?host=keel-backup&volume=${front}`)).json()) as {
    whole: boolean;
    hops: { number: number; hop: string; object: string; evidence: string }[];
  };
  expect(traced.whole).toBe(true);
  expect(traced.hops[0]).toMatchObject({ number: 1, hop: 'Outside array', object: 'corbel-9:0' });
  expect(traced.hops).toHaveLength(15);

  await page.getByRole('button', { name: 'corbel-9:0' }).click();
  await panel(page, 'corbel-9:0').getByRole('button', { name: 'Give it back' }).click();
  await expect(page.getByText(/keel-backup has chronicle mounted at/).first()).toBeVisible();
  await page
    .getByRole('button', { name: /^Unmount/ })
    .first()
    .click();
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/moves?part=outside');
  await page.getByRole('button', { name: 'corbel-9:0' }).click();
  await panel(page, 'corbel-9:0').getByRole('button', { name: 'Give it back' }).click();
  await expect(page.getByText(/Give corbel-9:0 back to corbel-9: keel-backup sees it there again/)).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/moves?part=outside');
  await expect(page.getByRole('row', { name: /^corbel-9:0/ })).toContainText('keel-backup');
  await expect(page.getByRole('row', { name: /^corbel-9:0/ })).toContainText('found');
});

test('blank LUNs become a tier of a pool after the serial is typed', async ({ page, request }) => {
  await page.goto('/moves?part=outside');
  const serial = await page
    .getByRole('row', { name: /^corbel-9:1/ })
    .getByRole('cell')
    .nth(2)
    .innerText();
  await page.getByRole('button', { name: 'corbel-9:1' }).click();
  await panel(page, 'corbel-9:1').getByRole('button', { name: 'Use it as blank room' }).click();
  await choose(page, 'Pool', 'hold');
  await page.getByLabel('Their serials').fill('0000000000');
  await expect(page.getByText(/corbel-9:1: 0000000000 is not its serial/).first()).toBeVisible();
  await page.getByLabel('Their serials').first().fill(serial);
  await expect(page.getByText('All are confirmed.')).toBeVisible();
  await expect(page.getByText(/Use corbel-9:1 as blank room: 8 TiB in group corbel-9-lun-1/)).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/moves?part=outside');
  await expect(page.getByRole('row', { name: /^corbel-9:1/ })).toContainText('of pool hold');
  const span = await request.get('/api/v1/raid-groups');
  expect(JSON.stringify(await span.json())).toContain('corbel-9-lun-1');
  await advance(request, 60);
});

for (const theme of ['light', 'dark'] as const)
  test(`sound for those who cannot see it (${theme})`, async ({ page }) => {
    await page.emulateMedia({ colorScheme: theme });
    await page.goto('/moves?part=outside');
    await expect(page.getByRole('table', { name: 'LUNs found' })).toBeVisible();
    const { violations } = await new AxeBuilder({ page }).analyze();
    expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([]);
  });

test('by keyboard alone: LUNs are walked, the next step is taken', async ({ page }) => {
  await page.goto('/moves?part=outside');
  await page.getByRole('button', { name: 'corbel-9:0' }).focus();
  await page.keyboard.press('End');
  await expect(page.getByRole('button', { name: 'corbel-9:5' })).toBeFocused();
  await expect(panel(page, 'corbel-9:5').getByRole('button', { name: 'Inspect it' })).toBeVisible();
  await page.keyboard.press('y');
  await expect(panel(page, 'corbel-9:5').getByRole('button', { name: 'Inspect it' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Inspect outside LUNs' })).toBeVisible();
  await expect(page.getByText(/Inspect corbel-9:5: 6 TiB, serial/)).toBeVisible();
});
