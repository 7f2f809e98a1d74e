import { expect, test, type Page } from './test';
import type { Locator } from '@playwright/test';
import { addToDraft, advance, carryOut, emptyTray, runDraft, setClock } from './steps';

test.use({ lab: 'a replica' });

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

const given = (value: object) => encodeURIComponent(JSON.stringify(value));

/** Walks on with the Tab key until something has the keyboard. */
async function tabTo(page: Page, target: Locator): Promise<void> {
  await expect(target).toBeVisible();
  for (let k = 0; k < 120; k++) {
    if (await target.evaluate((element) => element === document.activeElement)) return;
    await page.keyboard.press('Tab');
  }
  throw new Error('Tab never reached it.');
}

test('copied every night with its plan, looked at the next morning, turned and turned back', async ({
  page,
  request,
}) => {
  test.setTimeout(180_000);
  await carryOut(request, 'A desk with a plan', [
    { do: 'workload.create', name: 'Cabin desk' },
    { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'cabin', size: '20 GiB', workload: 'Cabin desk' },
    { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['cabin'] },
    { do: 'host.rescan', host: 'gate-1' },
    { do: 'host-device.format', host: 'gate-1', device: 'cabin', fileSystem: 'xfs', mountPoint: '/srv/cabin' },
    { do: 'plan.create', name: 'Cabin night', zone: 'Europe/Oslo', rpo: '26 h', every: 'day 02:00', keepDays: 7 },
    { do: 'plan.attach', plan: 'Cabin night', workloads: ['Cabin desk'] },
  ]);
  const wrote = await request.post('/api/v1/lab/file', {
    data: { host: 'gate-1', device: 'cabin', path: 'desk/log.txt', do: 'write', size: '8 MiB' },
  });
  expect(wrote.ok()).toBe(true);

  // The copies go with the plan: both sides hold the same instants.
  await page.goto(
    `/?sheet=replication.create&with=${given({ workload: 'Cabin desk', to: 'lintel-2', pool: 'quay', link: 'dark fibre', plan: 'Cabin night' })}`,
  );
  await expect(
    page
      .getByRole('complementary')
      .getByText(/The first copy of/)
      .first(),
  ).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request);
  await advance(request, 26 * 3600);
  await page.goto('/protection?part=elsewhere');
  const table = page.getByRole('table', { name: 'Replications' });
  await table.getByRole('button', { name: 'Cabin desk' }).click();
  await expect(table.getByRole('row', { name: /Cabin desk Nordkai to Molenhaven protected/ })).toBeVisible();
  const night = page.getByRole('table', { name: 'Cycles', exact: true }).getByRole('row', { name: /Tue 15 Apr 00:00/ });
  await expect(night).toContainText('done');

  // A clone of the replica is looked at beside it.
  await carryOut(request, 'A look at the replica', [
    { do: 'snapshot.clone', array: 'lintel-2', volume: 'cabin-copy', name: 'cabin-look' },
    { do: 'mapping.create', host: 'yard-1', array: 'lintel-2', volumes: ['cabin-look'] },
    { do: 'host.rescan', host: 'yard-1' },
    { do: 'host-device.mount', host: 'yard-1', device: 'cabin-look', mountPoint: '/srv/look' },
  ]);
  await page.goto(`/?sheet=host&with=${given({ host: 'yard-1' })}`);
  await expect(page.getByText('desk/log.txt').first()).toBeVisible();

  // Turned by keyboard alone, and turned back.
  await carryOut(request, 'The desk stops', [{ do: 'host-device.unmount', host: 'gate-1', device: 'cabin' }]);
  for (const after of [/Cabin desk Molenhaven to Nordkai protected/, /Cabin desk Nordkai to Molenhaven protected/]) {
    await page.goto('/protection?part=elsewhere');
    await tabTo(page, table.getByRole('button', { name: 'Cabin desk' }));
    await page.keyboard.press('Enter');
    await tabTo(page, page.getByRole('button', { name: 'Switch sides' }));
    await page.keyboard.press('Enter');
    await tabTo(page, page.getByRole('switch', { name: 'Applications are stopped' }));
    await page.keyboard.press('Space');
    const add = page.getByRole('button', { name: 'Add to draft' });
    await expect(add).toHaveAttribute('aria-disabled', 'false');
    await tabTo(page, add);
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: /^(Add to draft|Adding …)$/ })).toBeHidden();
    await runDraft(page, request);
    await page.goto('/protection?part=elsewhere');
    await expect(table.getByRole('row', { name: after })).toBeVisible();
  }
});
