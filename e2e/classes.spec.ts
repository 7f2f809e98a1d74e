import AxeBuilder from '@axe-core/playwright';
import { expect, test } from './test';
import { addToDraft, emptyTray, runDraft, setClock } from './steps';

test.use({ lab: 'classes' });

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

const asking = (rules: string[], more = '') =>
  `/classes?size=2+TiB&iops=8000&rules=${encodeURIComponent(rules.join('\n'))}${more}`;

test('a request that nothing fits says what to loosen; loosened it fits, and the place opens as a prepared volume', async ({
  page,
}) => {
  await page.goto(asking(['media at least ssd-sata', 'site is Oever']));
  const form = page.getByRole('region', { name: 'Ask for a place' });
  await expect(form.getByText(/No pool fits; .*Loosen site, or ask for less/)).toBeVisible();
  await form.getByLabel('Value of rule 2').fill('Nordkai');
  await expect(form.getByText(/lintel-1 quay alone fits/)).toBeVisible();
  const pools = page.getByRole('table', { name: 'Pools and the request' });
  await expect(pools.getByRole('row', { name: /The request/ })).toContainText('1 of 7 fit');
  await expect(pools.getByRole('row', { name: /quay lintel-2/ })).toContainText('only site');
  await form.getByRole('button', { name: 'Carve it in quay' }).click();
  await expect(page.getByRole('heading', { name: 'Carve volumes' })).toBeVisible();
  await expect(page.getByLabel('Size of each')).toHaveValue('2 TiB');
});

test('a request that is kept is asked again: two apart find a place, three do not, and the two are carved', async ({
  page,
  request,
}) => {
  await page.goto('/classes');
  // Carved from its row, a request keeps its rules: what nothing fits is refused there too.
  await page
    .getByRole('row', { name: /^Chart archive/ })
    .getByRole('button', { name: 'Carve' })
    .click();
  await page.getByLabel('Name', { exact: true }).fill('charts-2');
  await expect(
    page
      .getByRole('complementary')
      .getByText(/No pool fits; only this speaks against/)
      .first(),
  ).toBeVisible();
  await expect(page.getByRole('button', { name: 'Add to draft' })).toHaveAttribute('aria-disabled', 'true');
  await page.keyboard.press('Escape');
  const form = page.getByRole('region', { name: 'Ask for a place' });
  await form.getByLabel('Request').selectOption('Journals apart');
  await expect(form.getByLabel('They go')).toHaveValue('apart');
  await form.getByLabel('times').fill('3');
  await expect(form.getByText('✕ 1 finds no place')).toBeVisible();
  await expect(form.getByRole('button', { name: 'Carve them there' })).toBeHidden();
  await form.getByLabel('times').fill('2');
  await expect(form.getByText('1 in lintel-1 quay, 1 in lintel-2 quay.')).toBeVisible();
  await form.getByRole('button', { name: 'Carve them there' }).click();
  await expect(page.getByRole('complementary').getByText('name-1, name-2')).toBeVisible();
  await page.getByLabel('Name', { exact: true }).fill('journal');
  await addToDraft(page);
  await runDraft(page, request);
  for (const name of ['journal-1', 'journal-2']) {
    const { total } = (await (await request.get(`/api/v1/volumes?name=${name}`)).json()) as { total: number };
    expect(total).toBe(1);
  }
});

test('for a host: pools that it does not reach are left out, and it is given its storage from the best', async ({
  page,
}) => {
  await page.goto(asking(['media at least ssd-sata']));
  const form = page.getByRole('region', { name: 'Ask for a place' });
  await form.getByLabel('For').selectOption('berth-sim');
  const pools = page.getByRole('table', { name: 'Pools and the request' });
  const ballast = pools.getByRole('row', { name: /ballast purlin-1/ });
  await expect(ballast).toContainText('3 against');
  await expect(ballast.getByTitle(/berth-sim does not reach it/)).toBeVisible();
  await form.getByRole('button', { name: /^Give it to berth-sim from quay/ }).click();
  await expect(page.getByRole('heading', { name: 'Give storage to…' })).toBeVisible();
  await expect(page.getByLabel('Size', { exact: true })).toHaveValue('2 TiB');
});

test('rules become a class; volumes that meet it are put under it, others are refused with what is missing', async ({
  page,
  request,
}) => {
  await page.goto(asking(['media at least ssd-sata', 'hours is not office hours']));
  const form = page.getByRole('region', { name: 'Ask for a place' });
  await form.getByRole('button', { name: 'Keep the rules as a class' }).click();
  await page.getByLabel('Name', { exact: true }).fill('flash-day');
  await expect(page.getByText(/lintel-1 quay, lintel-2 quay fit it/).first()).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/classes');
  const classes = page.getByRole('table', { name: 'Service classes' });
  await expect(classes.getByRole('row', { name: /^flash-day/ })).toContainText('2 of 7');
  await page.goto(
    `/classes?sheet=class.apply&with=${encodeURIComponent(
      JSON.stringify({ array: 'lintel-1', class: 'flash-day', volumes: ['crew-rota'] }),
    )}`,
  );
  await expect(
    page.getByText(/crew-rota does not meet flash-day: media is hdd-10k, wanted media at least ssd-sata/).first(),
  ).toBeVisible();
});

test('a declared fact that a reading contradicts is found, and a volume that left its class', async ({ page }) => {
  await page.goto('/classes');
  await expect(page.getByText(/lintel-1 hold: declared encryption yes, read no/)).toBeVisible();
  await page.goto('/findings');
  await expect(page.getByText(/Of hold it is said that encryption is yes; read is no/).first()).toBeVisible();
  await expect(page.getByText(/scanner left its class steady/).first()).toBeVisible();
});

test('an allotment: within it a consumer carves, beyond it the figures are said', async ({ page, request }) => {
  const carve = (size: string) =>
    `/classes?sheet=allotment.carve&with=${encodeURIComponent(
      JSON.stringify({ allotment: 'Ticketing desk', array: 'lintel-1', pool: 'quay', name: 'desk', size }),
    )}`;
  await page.goto(carve('3 TiB'));
  await expect(page.getByText(/lintel-1 quay: 2 TiB left, 3 TiB wanted/).first()).toBeVisible();
  await page.goto(carve('1 TiB'));
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/classes');
  const row = page.getByRole('table', { name: 'Allotments' }).getByRole('row', { name: /^Ticketing desk/ });
  await expect(row).toContainText('2 of 20');
  await row.getByRole('button', { name: 'Ticketing desk' }).click();
  const own = page.getByRole('region', { name: 'Ticketing desk' });
  await expect(own.getByText(/left of .*% taken; 2 volumes of 20/)).toBeVisible();
  const desk = own.getByRole('row', { name: /^desk/ });
  await desk.getByRole('button', { name: 'Copy' }).click();
  await expect(page.getByRole('combobox', { name: 'Volume' })).toContainText('desk');
  await page.keyboard.press('Escape');
  await desk.getByRole('button', { name: 'Grow' }).click();
  await expect(page.getByRole('heading', { name: 'Resize volumes' })).toBeVisible();
  await page.keyboard.press('Escape');
  await own
    .getByRole('button', { name: /^Take from quay/ })
    .first()
    .click();
  await expect(page.getByRole('heading', { name: 'Carve within an allotment' })).toBeVisible();
  await page.keyboard.press('Escape');
  await own.getByRole('button', { name: 'All allotments' }).click();
  await expect(page.getByRole('table', { name: 'Allotments' })).toBeVisible();
});

test('a machine: its disks and their volumes, copied at one instant; one on a share says why it is not', async ({
  page,
  request,
}) => {
  await page.goto('/classes');
  await page.getByRole('table', { name: 'Allotments' }).getByRole('button', { name: 'Virtual deck team' }).click();
  const machines = page.getByRole('region', { name: 'Machines' }).getByRole('table', { name: 'Machines' });
  await expect(
    machines.getByRole('row', { name: /^deck-web deck, running disk0 40 GiB deck-web-disk0/ }),
  ).toBeVisible();
  await expect(machines.getByRole('row', { name: /disk1 120 GiB deck-web-disk1/ })).toBeVisible();
  await expect(machines.getByRole('row', { name: /^deck-sign/ })).toContainText(
    'disk0 is a share of stores-1, which carries others, too',
  );
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([]);
  const web = machines.getByRole('row', { name: /^deck-web/ });
  await web.getByRole('button', { name: 'Copy' }).click();
  await expect(page.getByRole('heading', { name: 'Copy a machine' })).toBeVisible();
  await expect(page.getByText(/deck-web-disk0|2 volumes/).first()).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/classes');
  await page.getByRole('table', { name: 'Allotments' }).getByRole('button', { name: 'Virtual deck team' }).click();
  await expect(web).toContainText('1, newest');
  await web.getByRole('button', { name: 'Go back' }).click();
  await expect(page.getByRole('heading', { name: 'Bring a machine back' })).toBeVisible();
});

for (const theme of ['light', 'dark'] as const)
  test(`sound for those who cannot see it (${theme})`, async ({ page }) => {
    await page.emulateMedia({ colorScheme: theme });
    await page.goto(asking(['media at least ssd-sata', 'site is Oever']));
    await expect(page.getByRole('region', { name: 'Ask for a place' }).getByText(/No pool fits/)).toBeVisible();
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
      .analyze();
    expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]!.html}`)).toEqual([]);
    await page.goto('/classes');
    await page.getByRole('table', { name: 'Allotments' }).getByRole('button', { name: 'Archive team' }).click();
    await expect(page.getByRole('table', { name: 'Volumes taken' })).toBeVisible();
    const own = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']).analyze();
    expect(own.violations.map(({ id, nodes }) => `${id}: ${nodes[0]!.html}`)).toEqual([]);
  });

test('by keyboard alone: a rule is added, filled in, dropped', async ({ page }) => {
  await page.goto('/classes');
  const add = page.getByRole('button', { name: 'Add a rule' });
  await add.focus();
  await page.keyboard.press('Enter');
  const key = page.getByLabel('Key of rule 1');
  await key.focus();
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  await page.keyboard.type('ssd-nvme');
  await expect(page.getByText(/leaves out 5/)).toBeVisible();
  await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await expect(key).toHaveCount(0);
});
