import { expect, test } from './test';
import { addToDraft, advance, begun, choose, emptyTray, setClock } from './steps';

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

const IQN = 'iqn.2031-04.example.skarholt:quay-scan';

test('bare drives to a mounted disk, by mouse; then a port fault and the path count', async ({ page, request }) => {
  await page.goto('/');
  // RAID group
  await page.getByRole('button', { name: 'lintel-1', exact: true }).click();
  await page.getByRole('button', { name: 'Carve RAID group' }).click();
  await expect(page.getByRole('heading', { name: 'Carve a RAID group' })).toBeVisible();
  const shelf = page.getByRole('listbox', { name: 'Drives of enclosure 0' });
  for (const slot of [10, 11, 12]) await shelf.getByRole('option', { name: `Slot ${slot}`, exact: true }).click();
  await expect(page.getByRole('radio', { name: /^RAID 6:/ })).toBeDisabled();
  for (const slot of [13, 14, 15]) await shelf.getByRole('option', { name: `Slot ${slot}`, exact: true }).click();
  await page.getByRole('radio', { name: /RAID 6 4\+2/ }).click();
  await expect(page.getByText(/13\.96 TiB usable; survives 2 lost drives/)).toBeVisible();
  await page.getByLabel('Name', { exact: true }).fill('rg-1');
  await expect(page.getByRole('complementary').getByRole('alert')).toContainText(
    'lintel-1 has a RAID group named rg-1 already.',
  );
  await page.getByLabel('Name', { exact: true }).fill('rg-scan');
  await addToDraft(page);

  // Pool, on the group that so far is only in the draft
  await page.getByRole('button', { name: 'Make pool' }).click();
  await page.getByLabel(/^rg-scan/).check();
  await page.getByLabel('Name', { exact: true }).fill('scan');
  await expect(page.getByText(/13\.8\d TiB to give out; survives 2 lost drives/)).toBeVisible();
  await addToDraft(page);

  // Volumes
  await page.getByRole('button', { name: 'Carve volumes' }).click();
  await choose(page, 'Pool', /^scan/);
  await page.getByLabel('Name', { exact: true }).fill('scans');
  await page.getByLabel('How many').fill('2');
  await page.getByLabel('Size of each').fill('500');
  await expect(page.getByRole('complementary').getByText('500 has no unit.').first()).toBeVisible();
  await page.getByLabel('Size of each').fill('500 GiB');
  await expect(page.getByText('scans-1 … scans-2')).toBeVisible();
  await addToDraft(page);

  // Host
  await page.getByLabel('Find or do').first().fill('register');
  await page.getByRole('option', { name: /Register a host/ }).click();
  await page.getByLabel('Name', { exact: true }).fill('quay-scan');
  await page.getByLabel('Initiators', { exact: true }).fill('iqn.2031-04.example.skarholt:quay_scan');
  await expect(page.getByRole('complementary').getByRole('alert').first()).toContainText('Perhaps - is meant');
  await page.getByLabel('Initiators', { exact: true }).fill(IQN);
  await choose(page, 'Site', 'Nordkai');
  await page.getByLabel('Interface 1, address').fill('10.40.1.81/24');
  await page.getByLabel('Interface 2, address').fill('10.40.2.81/24');
  await expect(page.getByText(/10\.40\.2\.81\/24: iscsi-b; 4 portals in it/)).toBeVisible();
  await addToDraft(page);

  // Mapping
  await page.getByLabel('Find or do').first().fill('map volumes');
  await page.getByRole('option', { name: /^Map volumes/ }).click();
  await choose(page, 'Host', 'quay-scan');
  await page.getByLabel('Filter volumes').fill('scans');
  await page.getByLabel(/^scans-1/).check();
  await page.getByLabel(/^scans-2/).check();
  await expect(page.getByText('4 of 4 paths to each volume: 2 optimized, 2 non-optimized.')).toBeVisible();
  await addToDraft(page);

  // Review and run
  await page.getByRole('button', { name: 'Review', exact: true }).click();
  const sheet = page.getByRole('complementary');
  await expect(sheet.getByText('Map scans-2 to quay-scan as LUN 1: 4 of 4 paths')).toBeVisible();
  const figures = sheet.getByRole('table', { name: 'Before and after' });
  await expect(figures.getByRole('row', { name: /quay-scan host Paths/ })).toContainText('8/8');
  await sheet.getByRole('button', { name: 'Run' }).click();
  await expect(sheet.getByRole('list', { name: 'Steps' }).getByText('at work')).toHaveCount(1);
  await advance(request, 6);
  await expect(sheet.getByRole('list', { name: 'Steps' }).getByText(/^done/)).toHaveCount(1);
  await advance(request, 60);
  await expect(sheet.getByText('7 of 7 steps stand.')).toBeVisible();
  await expect(sheet.getByRole('list', { name: 'Log' }).getByText('Done')).toBeVisible();
  await sheet.getByRole('button', { name: 'Put away' }).click();
  await page.getByRole('button', { name: 'Put away' }).click();

  // The host looks, then format and mount
  // The list may still move under the pointer while the sheet beside it goes.
  await expect(async () => {
    // The column draws what is in sight: the new host stands further down.
    await page.getByRole('listbox', { name: 'Hosts' }).hover();
    await page.mouse.wheel(0, 4000);
    await page.getByRole('option', { name: /^quay-scan, 2 volumes/ }).click({ timeout: 2000 });
    await expect(page.getByText('2 volumes mapped, not looked for yet')).toBeVisible({ timeout: 2000 });
  }).toPass({ timeout: 15_000 });
  await page.getByRole('button', { name: 'Rescan' }).click();
  await expect(page.getByText(/disk1 \(scans-1\), disk2 \(scans-2\) appear/).first()).toBeVisible();
  await addToDraft(page);
  await page.getByLabel('Find or do').first().fill('format');
  await page.getByRole('option', { name: /Format and mount/ }).click();
  await choose(page, 'Host', 'quay-scan');
  await choose(page, 'Device', /disk1: scans-1/);
  await expect(page.getByLabel('Mount point')).toHaveValue('/srv/scans-1');
  await addToDraft(page);
  await page.keyboard.press('r');
  await sheet.getByRole('button', { name: 'Run' }).click();
  await advance(request, 60);
  await expect(sheet.getByText('2 of 2 steps stand.')).toBeVisible();
  await sheet.getByRole('button', { name: 'Put away' }).click();
  await expect(page.getByRole('region', { name: 'Selection' }).getByText(/disk1 at \/srv\/scans-1/)).toBeVisible();

  // A port fault: the paths follow at once
  await page.getByRole('button', { name: 'Faults and traffic' }).click();
  await page.locator('#fault-component').click();
  await page.getByRole('option', { name: 'lintel-1 port a4' }).click();
  await page.getByRole('button', { name: 'Break it' }).click();
  await expect(page.getByText('lintel-1 port a4 is down').first()).toBeVisible();
  await expect(page.getByRole('option', { name: /^quay-scan, 2 volumes, 6 of 8 paths, leans/ })).toBeVisible();
  await page.getByRole('button', { name: 'Mend lintel-1 port a4' }).click();
  await expect(page.getByRole('option', { name: /^quay-scan, 2 volumes, 8 of 8 paths, stands/ })).toBeVisible();
});

test('the same job by keyboard alone', async ({ page, request }) => {
  await page.goto('/');
  await expect(page.getByRole('listbox', { name: 'Hosts' })).toBeVisible();
  const press = async (...keys: string[]) => {
    for (const key of keys) await page.keyboard.press(key);
  };
  const type = (text: string) => page.keyboard.type(text);
  const start = async (words: string, title: string) => {
    await press('/');
    await expect(page.getByLabel('Find or do').first()).toBeFocused();
    await type(words);
    await expect(page.getByRole('option', { name: new RegExp(`^${title}`) })).toBeVisible();
    await press('Enter');
  };
  const tabTo = async (
    label: string | RegExp,
    role: 'textbox' | 'combobox' | 'button' | 'checkbox' | 'listbox' | 'radio' = 'textbox',
  ) => {
    const target = page.getByRole(role, { name: label }).first();
    await expect(target).toBeVisible();
    for (let k = 0; k < 90; k++) {
      if (await target.evaluate((element) => element === document.activeElement)) return;
      await press('Tab');
    }
    throw new Error(`Tab never reached ${String(label)}.`);
  };
  const pick = async (label: string, option: string) => {
    await tabTo(label, 'combobox');
    const box = page.getByRole('combobox', { name: label }).first();
    // What can be chosen follows from the fields before: nobody opens a list that has nothing yet.
    await expect(box).not.toHaveText('None there');
    await press('Enter');
    const wanted = page.getByRole('option', { name: new RegExp(`^${option}`) });
    await expect(wanted).toBeVisible();
    // Keys typed before the list has the keyboard would choose in the closed field.
    await expect(page.locator('[role=option]:focus')).toHaveCount(1);
    await type(option);
    await expect(wanted).toBeFocused();
    await press('Enter');
    await expect(box).toContainText(option);
  };
  const write = async (label: string, text: string) => {
    await tabTo(label);
    await press('Control+a');
    await type(text);
  };
  const add = async () => {
    await expect(page.getByRole('button', { name: 'Add to draft' })).toHaveAttribute('aria-disabled', 'false');
    await tabTo('Add to draft', 'button');
    await press('Enter');
    await expect(page.getByRole('button', { name: /^(Add to draft|Adding …)$/ })).toBeHidden();
  };

  await start('carve a raid', 'Carve a RAID group');
  await tabTo('Drives of enclosure 0', 'listbox');
  for (let k = 0; k < 16; k++) await press('ArrowRight');
  await press('Space', 'Shift+ArrowRight', 'Shift+ArrowRight', 'Shift+ArrowRight');
  await expect(page.getByText('4 ticked, 15.36 TB raw.')).toBeVisible();
  await tabTo(/RAID 6 2\+2|RAID 0 4\+0/, 'radio');
  const wanted = page.getByRole('radio', { name: /^RAID 6 2\+2/ });
  for (let k = 0; k < 8 && !(await wanted.evaluate((radio) => radio === document.activeElement)); k++)
    await press('ArrowRight');
  await press('Space');
  await expect(page.getByText(/survives 2 lost drives/)).toBeVisible();
  await write('Name', 'rg-keys');
  await add();

  await start('make a pool', 'Make a pool');
  await tabTo(/^rg-keys/, 'checkbox');
  await expect(page.getByRole('checkbox', { name: /^rg-keys/ })).toBeVisible();
  if (!(await page.getByRole('checkbox', { name: /^rg-keys/ }).isChecked())) await press('Space');
  await write('Name', 'keys');
  await add();

  await start('carve volumes', 'Carve volumes');
  await pick('Pool', 'keys');
  await write('Name', 'key');
  await write('Size of each', '2 TiB');
  await add();

  await start('register', 'Register a host');
  await write('Name', 'key-host');
  await pick('Site', 'Nordkai');
  await write('Initiators', 'iqn.2031-04.example.skarholt:key-host');
  await write('Interface 1, address', '10.40.1.91/24');
  await add();

  await start('map volumes', 'Map volumes');
  await pick('Host', 'key-host');
  await write('Filter volumes', 'key');
  await tabTo(/^key, 2 TiB/, 'checkbox');
  await press('Space');
  await add();

  await start('rescan', 'Rescan a host');
  await pick('Host', 'key-host');
  await add();
  await start('format', 'Format and mount');
  await pick('Host', 'key-host');
  await pick('Device', 'disk1');
  await expect(page.getByLabel('Mount point')).toHaveValue('/srv/key');
  await add();

  await press('Escape', 'r');
  await tabTo('Run', 'button');
  await press('Enter');
  await begun(page);
  await advance(request, 120);
  await expect(page.getByText('7 of 7 steps stand.')).toBeVisible();
  await press('Escape');

  // Walking the drawing: to the hosts, down to the new one, its verbs.
  await press('7');
  await expect(page.getByRole('listbox', { name: 'Hosts' })).toBeFocused();
  await press('Home');
  const option = page.getByRole('option', { name: /^key-host, 1 volumes, 2 of 2 paths/ });
  // The column draws what is in sight: the new host may come into it only on the way.
  const reached = async () => (await option.count()) > 0 && (await option.getAttribute('data-active')) !== null;
  for (let k = 0; k < 80 && !(await reached()); k++) await press('ArrowDown');
  await press('Enter');
  await expect(page).toHaveURL(/sel=host%3Ahost_/);
  await expect(page.getByRole('region', { name: 'Selection' }).getByText(/disk1 at \/srv\/key/)).toBeVisible();
  await press('ArrowLeft');
  await expect(page.getByRole('listbox', { name: 'Fabrics and networks' })).toBeFocused();
  await press('Escape');
  await expect(page).not.toHaveURL(/sel=/);
});
