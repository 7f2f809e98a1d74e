import { expect, test } from './test';
import { advance, setClock } from './steps';

const shot = (name: string) => ({ path: `docs/screenshots/${name}.png`, animations: 'disabled' as const });
const given = (value: object) => encodeURIComponent(JSON.stringify(value));

test('pictures of the main views', async ({ page, request }) => {
  test.setTimeout(180_000);
  await setClock(request, 0);
  const ready = async (path: string) => {
    await page.goto(path);
    await expect(page.getByText(/5 steps, 12 s|steps stand/).first()).toBeVisible();
    await page.waitForTimeout(700);
  };
  await ready('/');
  await page.getByRole('option', { name: /^tickets,/ }).click();
  await expect(page.getByRole('heading', { name: 'tickets' })).toBeVisible();
  await page.mouse.move(640, 590);
  await page.waitForTimeout(500);
  await page.screenshot(shot('span'));

  await page.emulateMedia({ colorScheme: 'dark' });
  await page.waitForTimeout(400);
  await page.screenshot(shot('span-dark'));
  await page.emulateMedia({ colorScheme: 'light' });

  await ready(`/?sheet=raid-group.create&with=${given({ array: 'lintel-1', level: 'raid6' })}`);
  await page.getByRole('button', { name: 'Tick 8 for me' }).click();
  await expect(page.getByText(/survives 2 lost drives/)).toBeVisible();
  await page.screenshot(shot('carve'));

  await page.goto('/capacity');
  await expect(page.getByRole('region', { name: 'Runway of tide' })).toBeVisible();
  await page.waitForTimeout(600);
  await page.screenshot(shot('capacity'));

  await page.goto('/protection');
  await page.getByRole('option', { name: /^Ticketing/ }).click();
  await page.getByRole('table', { name: 'Restore points' }).getByRole('row').nth(7).getByRole('button').first().click();
  await expect(page.getByText('gone now')).toBeVisible();
  await page.waitForTimeout(400);
  await page.screenshot(shot('protection'));

  await page.goto('/protection?part=elsewhere');
  await page.getByRole('table', { name: 'Replications' }).getByRole('button', { name: 'Ticketing' }).click();
  await expect(page.getByRole('table', { name: 'Cycles', exact: true })).toBeVisible();
  await page.waitForTimeout(400);
  await page.screenshot(shot('elsewhere'));
  await page.getByRole('table', { name: 'Replications' }).getByRole('button', { name: 'Virtual deck' }).click();
  await expect(page.getByRole('heading', { name: 'Virtual deck' })).toBeVisible();
  await page.waitForTimeout(400);
  await page.screenshot(shot('stretch'));
  await page.getByRole('button', { name: 'All replications' }).click();
  await page
    .getByRole('button', { name: /^drill-/ })
    .first()
    .click();
  await expect(page.getByRole('region', { name: 'Drill' })).toBeVisible();
  await page.emulateMedia({ colorScheme: 'dark' });
  await page.waitForTimeout(400);
  await page.screenshot(shot('drill-dark'));
  await page.emulateMedia({ colorScheme: 'light' });
  await page.goto('/moves');
  await expect(page.getByRole('button', { name: 'Confirm Wave 1' }).first()).toBeVisible();
  await page.waitForTimeout(600);
  await page.screenshot(shot('moves'));

  await page.goto('/findings');
  await expect(page.getByText('tide promises 239 % of its size.')).toBeVisible();
  await page.waitForTimeout(400);
  await page.screenshot(shot('findings'));

  await page.goto('/moves?part=outside');
  await expect(page.getByText(/No host writes, none has it mounted/)).toBeVisible();
  await page.waitForTimeout(400);
  await page.screenshot(shot('outside'));

  await page.goto('/load');
  await expect(page.getByRole('region', { name: 'Needs somebody' }).getByText(/hides it/)).toBeVisible();
  await page.waitForTimeout(500);
  await page.screenshot(shot('load'));
  await page.getByRole('button', { name: 'scanner', exact: true }).first().click();
  await page.getByRole('button', { name: 'Find a limit for stores-1' }).click();
  await page.getByLabel('p95 of scanner, ms').fill('40');
  await page.getByRole('button', { name: 'Find the limit' }).click();
  await expect(page.getByText(/Tried with/)).toBeVisible();
  await page.waitForTimeout(800);
  await page.screenshot(shot('limit'));

  await ready(
    `/classes?size=2+TiB&iops=8000&rules=${encodeURIComponent(
      [
        'media at least ssd-sata',
        'protection at least 2',
        'site is Nordkai',
        'costPerTiB between 40 and 60',
        'hours is not office hours',
      ].join('\n'),
    )}`,
  );
  await expect(page.getByText(/alone fits/)).toBeVisible();
  await page.screenshot(shot('classes'));

  await ready('/');
  await page.keyboard.press('r');
  await expect(page.getByRole('table', { name: 'Before and after' })).toBeVisible();
  await page.waitForTimeout(400);
  await page.screenshot(shot('review'));

  await page.goto('/fabric');
  await expect(page.getByRole('table', { name: 'Who meets whom in fabric B' })).toBeVisible();
  await page.waitForTimeout(400);
  await page.screenshot(shot('fabric'));
  await page.goto(`/fabric?sheet=what-if&with=${given({ failed: ['a2'] })}`);
  await expect(page.getByRole('table', { name: 'Who is hurt' })).toBeVisible();
  await page.waitForTimeout(600);
  await page.screenshot(shot('what-if'));
  await page.goto(`/?sheet=trace&with=${given({ host: 'ledger-1', volume: 'ledger' })}`);
  await expect(page.getByRole('table', { name: 'Paths' })).toBeVisible();
  await page.waitForTimeout(800);
  await page.screenshot(shot('trace'));

  await page.goto('/?sheet=hosts');
  await page.getByLabel('List of hosts', { exact: true })
    .fill(`name,cluster,site,operating system,initiators,interface addresses
rota-1,crew,Nordkai,linux,iqn.2031-04.example.skarholt:rota-1,10.40.1.71/24; 10.40.2.71/24
rota-2,crew,Nordkai,linux,iqn.2031-04.example.skarholt:rota_2,10.40.1.72/24
rota-3,crew,Nordkai,linux,iqn.2031-04.example.skarholt:rota-3,10.40.1.51/24`);
  const { tray } = (await (await request.get('/api/v1/changes')).json()) as { tray: string };
  await page.getByRole('button', { name: 'Read the list' }).click();
  await expect(page.getByText('1 taken, 2 refused.')).toBeVisible();

  await request.put('/api/v1/tray', { data: { change: tray } });
  await request.post(`/api/v1/changes/${tray}/run`);
  await advance(request, 60);
  await page.goto(`/changes?sheet=change&with=${given({ id: tray })}`);
  await expect(page.getByText('5 of 5 steps stand.')).toBeVisible();
  await page.waitForTimeout(400);
  await page.screenshot(shot('changes'));
});
