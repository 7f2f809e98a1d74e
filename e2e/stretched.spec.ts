import AxeBuilder from '@axe-core/playwright';
import { expect, test } from './test';
import { addToDraft, advance, carryOut, choose, emptyTray, runDraft, setClock } from './steps';

test.use({ lab: 'a lost site' });

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

test('a harbour is lost and comes back while files are written at the other: one volume all along', async ({
  page,
  request,
}) => {
  test.setTimeout(180_000);
  const fault = async (kind: string, component: string, clear = false) => {
    expect((await request.post('/api/v1/lab/faults', { data: { kind, component, clear } })).ok()).toBe(true);
  };
  const write = (host: string, path: string) =>
    request.post('/api/v1/lab/file', { data: { host, device: 'stores-1', path, do: 'write', size: '4 MiB' } });
  await carryOut(request, 'The deck at both harbours', [
    { do: 'host.rescan', host: 'deck-3' },
    { do: 'host-device.mount', host: 'deck-3', device: 'stores-1', mountPoint: '/stores/deck' },
  ]);
  expect((await write('deck-1', 'berth-7.img')).ok()).toBe(true);

  await page.goto('/protection?part=elsewhere');
  await page.getByRole('table', { name: 'Replications' }).getByRole('button', { name: 'Virtual deck' }).click();
  await expect(page.getByRole('img', { name: 'Nordkai serves, Molenhaven serves, oever-1 is up' })).toBeVisible();
  const failures = page.getByRole('region', { name: 'Which failure, who goes on' });
  await expect(
    failures.getByRole('row', { name: /^Now/ }).getByRole('img', { name: 'Nordkai is down, Molenhaven serves alone' }),
  ).toBeVisible();
  const hosts = page.getByRole('table', { name: 'Hosts of the pair' });
  await expect(hosts.getByRole('row', { name: /deck-3 Molenhaven 4 non-optimized 2 optimized/ })).toBeVisible();

  // Nordkai is lost: for five seconds nobody answers, then Molenhaven goes on alone, as foretold.
  await fault('site-down', 'Nordkai');
  await advance(request, 4);
  expect((await write('deck-3', 'early.img')).ok()).toBe(false);
  await advance(request, 3);
  await expect(
    page.getByRole('img', { name: 'Nordkai is down, Molenhaven serves alone, oever-1 is up' }),
  ).toBeVisible();
  expect((await write('deck-3', 'berth-8.img')).ok()).toBe(true);
  await expect(failures.getByText('Were Molenhaven lost now, nobody goes on.')).toBeHidden();
  await expect(page.getByText('Were Molenhaven lost now, nobody goes on.')).toBeVisible();
  await expect(page.getByText('Molenhaven serves alone, epoch 3')).toBeVisible();
  await advance(request, 400);
  await page.goto('/findings');
  await expect(page.getByText('Only Molenhaven serves Virtual deck.').first()).toBeVisible();

  // It comes back, is refreshed, and both serve: what was written alone stands there, too.
  await fault('site-down', 'Nordkai', true);
  await advance(request, 1800);
  await page.goto('/protection?part=elsewhere');
  await page.getByRole('table', { name: 'Replications' }).getByRole('button', { name: 'Virtual deck' }).click();
  await expect(page.getByRole('img', { name: 'Nordkai serves, Molenhaven serves, oever-1 is up' })).toBeVisible();
  await page.goto(`/?sheet=host&with=${encodeURIComponent(JSON.stringify({ host: 'deck-1' }))}`);
  await expect(page.getByText('berth-8.img').first()).toBeVisible();
  await expect(page.getByText('berth-7.img').first()).toBeVisible();

  for (const scheme of ['light', 'dark'] as const) {
    await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' });
    await page.goto('/protection?part=elsewhere');
    await page.getByRole('table', { name: 'Replications' }).getByRole('button', { name: 'Virtual deck' }).click();
    await expect(page.getByRole('heading', { name: 'Virtual deck' })).toBeVisible();
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
      .analyze();
    expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]!.target.join(' ')}`)).toEqual([]);
  }
});

test('a workload is stretched with a witness that will do, and a leg taken away again', async ({ page, request }) => {
  test.setTimeout(120_000);
  await carryOut(request, 'A desk', [
    { do: 'workload.create', name: 'Cabin desk' },
    { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'cabin', size: '20 GiB', workload: 'Cabin desk' },
    { do: 'witness.create', name: 'near-1', site: 'Nordkai' },
  ]);
  await page.goto('/protection?part=elsewhere');
  await page.getByRole('button', { name: 'Stretch over two sites' }).click();
  const sheet = page.getByRole('complementary');
  await choose(page, 'Workload', 'Cabin desk');
  await choose(page, 'To array', 'lintel-2');
  await choose(page, 'Its pool', /^quay/);
  await choose(page, 'Over link', /^dark fibre/);
  await choose(page, 'Witness', /^near-1/);
  await expect(sheet.getByText(/near-1 stands at Nordkai: it would be lost together/).first()).toBeVisible();
  await choose(page, 'Witness', /^oever-1/);
  await expect(sheet.getByText(/goes on after 3\.1 s, Molenhaven falls silent/).first()).toBeVisible();
  await addToDraft(page);
  await runDraft(page, request);
  await advance(request, 600);

  await page.goto('/protection?part=elsewhere');
  await page.getByRole('table', { name: 'Replications' }).getByRole('button', { name: 'Cabin desk' }).click();
  await expect(page.getByRole('img', { name: 'Nordkai serves, Molenhaven serves, oever-1 is up' })).toBeVisible();
  await page.getByRole('button', { name: 'Take a leg away' }).click();
  await choose(page, 'Goes on at', 'Nordkai');
  await expect(sheet.getByText('Both data sets stay; protection ends.').first()).toBeVisible();
  await page.getByLabel('Type its name').fill('Cabin desk');
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto('/protection?part=elsewhere');
  const table = page.getByRole('table', { name: 'Replications' });
  await expect(table.getByRole('button', { name: 'Virtual deck' })).toBeVisible();
  await expect(table.getByRole('button', { name: 'Cabin desk' })).toBeHidden();
});
