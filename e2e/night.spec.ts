import AxeBuilder from '@axe-core/playwright';
import { expect, test } from './test';
import { advance, emptyTray, setClock } from './steps';

test.use({ lab: 'night' });

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

const sheet = (id: string) => `/changes?sheet=change&with=${encodeURIComponent(JSON.stringify({ id }))}`;

test('a change is approved for the night, asks a person at its marked step, and is done in the morning', async ({
  page,
  request,
}) => {
  const prepared = await request.post('/api/v1/changes', {
    data: {
      title: 'Night shelf',
      operations: [
        { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'night-shelf', size: '20 GiB', count: 1 },
        { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['night-shelf'] },
      ],
    },
  });
  const { id } = (await prepared.json()) as { id: string };
  await page.goto(sheet(id));
  await page.getByRole('button', { name: 'Approve for later' }).click();
  const form = page.getByRole('region', { name: 'Approve for later' });
  await form.getByLabel('Approved by').fill('M. Okkema');
  await expect(form.getByText(/Next window Mon 14 Apr 22:00 to Tue 15 Apr 05:00/)).toBeVisible();
  await form.getByRole('checkbox', { name: /^2 Map night-shelf/ }).check();
  const { violations } = await new AxeBuilder({ page }).include('[role=complementary], aside').analyze();
  expect(violations.map(({ id: one }) => one)).toEqual([]);
  await form.getByRole('button', { name: 'Approve', exact: true }).click();
  await expect(page.getByText('It begins Mon 14 Apr 22:00.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Withdraw the approval' })).toBeVisible();

  await advance(request, 16.5 * 3600);
  await page.goto(sheet(id));
  const question = page.getByRole('region', { name: 'A person is asked' });
  await expect(question.getByText(/Map night-shelf to gate-1/).first()).toBeVisible();
  await question.getByLabel('Answered by').fill('T. Wierda');
  await question.getByRole('button', { name: 'Yes, go on' }).click();
  await expect(question).toBeHidden();
  await advance(request, 600);
  await page.goto('/changes');
  await expect(page.getByRole('row', { name: /Done Night shelf/ })).toBeVisible();
  await page.getByRole('button', { name: 'Mailbox' }).click();
  const mail = page.getByRole('table', { name: 'Mailbox' });
  await expect(mail.getByRole('row', { name: /Night shelf is done/ })).toBeVisible();
  await expect(mail.getByRole('row', { name: /Night shelf waits for you/ })).toBeVisible();
  await expect(mail.getByRole('row', { name: /Watch the vault closer is done/ })).toBeVisible();
});

test('what cannot be taken back is approved by two, and is due next until then', async ({ page, request }) => {
  const prepared = await request.post('/api/v1/changes', {
    data: {
      title: 'The spring copy goes',
      operations: [{ do: 'snapshot.delete', workload: 'Crew rota', copies: ['before-spring-rota'] }],
    },
  });
  const { id } = (await prepared.json()) as { id: string };
  await page.goto(sheet(id));
  await page.getByRole('button', { name: 'Approve for later' }).click();
  const form = page.getByRole('region', { name: 'Approve for later' });
  // It is lost for good: two look at it, unless somebody says otherwise.
  await expect(form.getByRole('checkbox', { name: /somebody else must approve it too/ })).toBeChecked();
  await form.getByLabel('Approved by').fill('M. Okkema');
  await form.getByRole('textbox', { name: 'Begins' }).fill('2031-04-31');
  await expect(form.getByText(/2031-04-31 is no date/)).toBeVisible();
  await expect(form.getByRole('button', { name: 'Approve', exact: true })).toBeDisabled();
  await form.getByRole('textbox', { name: 'Begins' }).fill('FR 23:30');
  await form.getByLabel('Clock of').fill('Europe/Oslo');
  await expect(form.getByText('Not before Fri 18 Apr 21:30 UTC.')).toBeVisible();
  await form.getByRole('button', { name: 'Approve', exact: true }).click();
  await expect(page.getByText(/Approved by then, it begins Fri 18 Apr 22:00/)).toBeVisible();

  await page.goto('/');
  await page.getByRole('button', { name: 'The spring copy goes' }).click();
  const asked = page.getByRole('region', { name: 'A second person is asked' });
  await expect(page.getByRole('list', { name: 'Steps' })).toContainText('Lost for good');
  await asked.getByLabel('Approved by').fill('m. okkema');
  await asked.getByRole('button', { name: 'Approve too' }).click();
  await expect(asked.getByRole('alert')).toContainText('a second person is somebody else');
  await asked.getByLabel('Approved by').fill('T. Wierda');
  await page.keyboard.press('Enter');
  await expect(asked).toBeHidden();
  await expect(page.getByText(/Approved by M. Okkema and T. Wierda/)).toBeVisible();
  await page.getByRole('button', { name: 'Withdraw the approval' }).click();
  await expect(page.getByRole('button', { name: 'Approve for later' })).toBeVisible();
  await request.delete(`/api/v1/changes/${id}`);
});

test('no takes back what was done, and says so', async ({ page, request }) => {
  await page.goto('/changes');
  await page.getByRole('button', { name: 'Put the third camera away' }).click();
  const question = page.getByRole('region', { name: 'A person is asked' });
  await expect(question.getByText(/camera-03/).first()).toBeVisible();
  await question.getByLabel('Answered by').fill('T. Wierda');
  await question.getByRole('button', { name: 'No', exact: true }).click();
  await advance(request, 120);
  await page.goto('/changes?part=mail');
  await expect(page.getByRole('row', { name: /Put the third camera away was taken back/ })).toBeVisible();
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.map(({ id }) => id)).toEqual([]);
});
