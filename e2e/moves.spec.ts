import { expect, test } from './test';
import { addToDraft, advance, emptyTray, runDraft, setClock } from './steps';

test.use({ lab: 'moves' });
test.describe.configure({ mode: 'serial' });

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

const given = (value: object) => encodeURIComponent(JSON.stringify(value));

test('a wave that is whole is looked at once more, confirmed by keyboard alone, and taken over; then it goes back', async ({
  page,
  request,
}) => {
  await page.goto('/moves');
  const list = page.getByRole('region', { name: 'Waves' });
  await expect(list.getByRole('option', { name: /^stowage.*waits for a person/ })).toBeVisible();
  await list.getByRole('listbox').first().focus();
  await page.keyboard.press('Home');
  await expect(list.getByRole('option', { name: /^manifests/ })).toHaveAttribute('aria-selected', 'true');
  for (let k = 0; k < 9; k++) {
    if ((await list.getByRole('option', { name: /^tariffs/ }).getAttribute('aria-selected')) === 'true') break;
    await page.keyboard.press('ArrowDown');
  }
  const panel = page.getByRole('complementary', { name: 'Move of tariffs' });
  await expect(panel.getByText(/new paths at the least; .* left, hosts wait/)).toBeVisible();
  await page.keyboard.press('y');
  await expect(panel.getByRole('button', { name: 'Confirm Wave 1' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Confirm cuts of moves' })).toBeVisible();
  await expect(page.getByText(/mail, stowage, tariffs, weather change over as one: hosts wait/)).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/moves');
  for (const name of ['stowage', 'mail', 'tariffs', 'weather'])
    await expect(page.getByRole('option', { name: new RegExp(`^${name}.*taken over`) })).toBeVisible();

  await page.getByRole('option', { name: /^mail/ }).click();
  await page.getByRole('complementary', { name: 'Move of mail' }).getByRole('button', { name: 'Roll back' }).click();
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/moves');
  await expect(
    page.getByRole('option', { name: /^mail.*lintel-1 hold to purlin-1 ballast.*waits for a person/ }),
  ).toBeVisible();
});

test('what is proven is accepted, and the old copy goes', async ({ page, request }) => {
  await page.goto('/moves');
  await page.getByRole('option', { name: /^manifests/ }).click();
  await page.getByRole('complementary', { name: 'Move of manifests' }).getByRole('button', { name: 'Accept' }).click();
  await expect(page.getByText(/the old copy in purlin-1 ballast is erased/)).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request);
  await advance(request, 300);
  await page.goto('/moves');
  await expect(
    page.getByRole('table', { name: 'Moves that are over' }).getByRole('row', { name: /^manifests/ }),
  ).toContainText('done');
});

test('what cannot be is refused beside its field, with what would mend it', async ({ page }) => {
  await page.goto(
    `/moves?sheet=storage.move&with=${given({ array: 'lintel-1', volumes: ['crew-rota'], pool: 'tide', pauseS: 1 })}`,
  );
  await expect(page.getByText(/Switching alone takes 1 s; the allowed pause is 1 s/).first()).toBeVisible();
  await page.getByLabel('Pause at most, s').fill('4');
  await expect(page.getByText(/the allowed pause is 1 s/)).toHaveCount(0);
  await expect(page.getByText(/prerequisites? do(es)? not hold; crew-rota/).first()).toBeVisible();
});

test('a pool is emptied by waves within a window that was just planned', async ({ page, request }) => {
  await page.goto('/moves?sheet=wave-plan.create');
  await page.getByLabel('Name', { exact: true }).fill('Clear tide');
  await page.getByLabel('From hour').fill('6');
  await page.getByLabel('Until hour').fill('12');
  await expect(page.getByText(/The next window: Mon 14 Apr 06/)).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request, 5);
  await page.goto(
    `/moves?sheet=storage.move&with=${given({
      array: 'lintel-1',
      ofPool: 'tide',
      pool: 'hold',
      wavePlan: 'Clear tide',
      together: 'All of tide',
      leaves: true,
    })}`,
  );
  await expect(page.getByText(/All \d+ prerequisites hold/)).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request, 5);
  await page.goto('/moves');
  const plan = page.getByRole('group', { name: 'Clear tide' });
  await expect(plan.getByText(/4 moves/)).toBeVisible();
  await expect(page.getByText(/no plan could end before/).first()).toBeVisible();
  await advance(request, 5 * 3600);
  await page.goto('/moves');
  await plan.getByRole('button', { name: 'Confirm All of tide' }).click();
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/capacity');
  await expect(page.getByText('tide').first()).toBeVisible();
});
