import { expect, test, type Page } from './test';
import { emptyTray } from './steps';

test.beforeEach(async ({ request }) => emptyTray(request));

const opened = (page: Page, sheet: string, given: Record<string, unknown> = {}) =>
  page.goto(`/?sheet=${sheet}&with=${encodeURIComponent(JSON.stringify(given))}`);
const focusedField = (page: Page) =>
  page.evaluate(() => document.activeElement?.closest('[data-field]')?.getAttribute('data-field') ?? null);

test('a sheet that opens takes the focus, on what is to be filled in first', async ({ page }) => {
  await opened(page, 'volume.create', { array: 'lintel-1', pool: 'tide' });
  await expect.poll(() => focusedField(page)).toBe('name');
  await opened(page, 'host.configure', { host: 'gate-1', $field: 'chapSecret' });
  await expect.poll(() => focusedField(page)).toBe('chapSecret');
});

test('Esc puts a sheet away at once, and what was written is there when it is opened again', async ({ page }) => {
  await page.goto('/');
  const find = page.getByLabel('Find or do').first();
  await find.fill('carve volumes');
  await page.getByRole('option', { name: /^Carve volumes/ }).click();
  await expect.poll(() => focusedField(page)).not.toBeNull();
  await page.getByLabel('Name', { exact: true }).fill('half-written');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('complementary')).toBeHidden();
  await find.fill('carve volumes');
  await page.getByRole('option', { name: /^Carve volumes/ }).click();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('half-written');
  await expect(page.getByText(/as you left it/)).toBeVisible();
});

test('a form in which nothing was changed offers nothing to add', async ({ page }) => {
  await opened(page, 'host.configure', { host: 'gate-1' });
  await expect(page.getByText('Nothing would change yet.')).toBeVisible();
  const add = page.getByRole('button', { name: 'Add to draft' });
  await expect(add).toHaveAttribute('aria-disabled', 'true');
  await page.getByRole('button', { name: /^More/ }).click();
  await page.getByLabel('CHAP name', { exact: true }).fill('gate-one');
  await expect(page.getByText('Change gate-1: CHAP name gate-one')).toBeVisible();
  await expect(add).toHaveAttribute('aria-disabled', 'false');
});

test('trade words lead to where a thing is done, and Enter waits for what is found', async ({ page }) => {
  await page.goto('/');
  const find = page.getByLabel('Find or do').first();
  await find.fill('dedupe');
  await page.getByRole('option', { name: /^Dedupe of a pool/ }).click();
  await expect.poll(() => focusedField(page)).toBe('dedupe');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('complementary')).toBeHidden();
  await page.route('**/api/v1/search?*', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 400));
    await route.continue();
  });
  await page.keyboard.press('/');
  await expect(find).toBeFocused();
  await page.keyboard.type('tickets');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Selection' }).getByRole('heading', { name: 'tickets' })).toBeVisible();
});

test('what is looked at stands in the address', async ({ page }) => {
  await page.goto('/fabric');
  await page.getByRole('button', { name: 'Zones', exact: true }).click();
  await expect(page).toHaveURL(/part=zones/);
  await page.reload();
  await expect(page.getByRole('button', { name: 'Zones', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await page.goto('/findings');
  await page.getByLabel('Filter findings').fill('spare');
  await expect(page).toHaveURL(/filter=spare/);
  await page.reload();
  await expect(page.getByLabel('Filter findings')).toHaveValue('spare');
});

test('the console is clean where choices are opened', async ({ page }) => {
  const said: string[] = [];
  page.on('console', (message) => {
    if (message.type() === 'error') said.push(message.text());
  });
  await opened(page, 'volume.create', { array: 'lintel-1' });
  await page.getByRole('combobox', { name: 'Pool' }).click();
  await expect(page.getByRole('option', { name: /^tide/ })).toBeVisible();
  await page.keyboard.press('Escape');
  expect(said).toEqual([]);
});

test('a sheet’s main button is pressed by Ctrl and Enter, wherever in it the focus is: added, then run', async ({
  page,
}) => {
  await opened(page, 'host.configure', { host: 'gate-2' });
  await page.getByRole('button', { name: /^More/ }).click();
  await page.getByLabel('Tries every, ms').fill('7000');
  await expect(page.getByText('Change gate-2: tries a lost controller every 7 s')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Add to draft' })).toHaveAttribute('aria-disabled', 'false');
  await page.keyboard.press('Control+Enter');
  await expect(page.getByRole('complementary')).toBeHidden();
  await page.keyboard.press('r');
  await expect(page.getByRole('button', { name: 'Run' })).toBeEnabled();
  await page.keyboard.press('Control+Enter');
  await expect(page.getByRole('button', { name: 'Run' })).toBeHidden();
});

test('one read beyond the end is refused as an array does, one within it is told with its path', async ({ page }) => {
  await opened(page, 'lab');
  const lab = page.getByRole('complementary');
  await lab.locator('#io-device').click();
  await page.getByRole('option', { name: 'berth-sim disk1' }).click();
  await lab.getByLabel('Offset').fill('300 GiB');
  await lab.getByRole('button', { name: 'Do it' }).click();
  await expect(lab.getByRole('alert')).toContainText('reach beyond the end of berths, 300 GiB');
  await lab.getByLabel('Offset').fill('0');
  await lab.getByRole('button', { name: 'Do it' }).click();
  await expect(lab.getByRole('status')).toContainText('berth-sim read 4 KiB at 0 B of berths by eth');
});
