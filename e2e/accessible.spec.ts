import AxeBuilder from '@axe-core/playwright';
import { carryOut, emptyTray, setClock } from './steps';
import { expect, test, type Page } from './test';

test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

/** Looks at the whole page, or at one part of it where the rest was looked at before. */
async function axe(page: Page, name: string, part?: string): Promise<void> {
  const dark = (await page.locator('html').getAttribute('data-theme')) === 'dark';
  const all = new AxeBuilder({ page });
  // The dark theme differs in colours alone: whatever else there is was looked at in the light one.
  const builder = dark
    ? all.withRules(['color-contrast'])
    : all.withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']);
  const { violations } = await (part ? builder.include(part) : builder).analyze();
  expect(
    violations.map(
      (violation) =>
        `${name}: ${violation.id}: ${violation.nodes
          .map((node) => node.target.join(' '))
          .slice(0, 3)
          .join(' | ')}`,
    ),
    name,
  ).toEqual([]);
}

for (const scheme of ['light', 'dark'] as const)
  test(`every view is accessible, ${scheme}`, async ({ page, request }) => {
    test.setTimeout(420_000);
    await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' });
    const id = await carryOut(request, `Seen ${scheme}`, [
      { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: `seen-${scheme}`, size: '1 GiB' },
    ]);
    const withId = encodeURIComponent(JSON.stringify({ id }));
    await page.goto('/');
    await expect(page.locator('html')).toHaveAttribute('data-theme', scheme);
    await expect(page.getByRole('option', { name: /^tickets,/ })).toBeVisible();
    await axe(page, 'span');
    await page.getByRole('option', { name: /^tickets,/ }).click();
    await expect(page.getByRole('heading', { name: 'tickets' })).toBeVisible();
    await axe(page, 'span marked');
    for (const sheet of [
      'raid-group.create',
      'drive.replace',
      'pool.create',
      'pool.configure',
      'volume.resize',
      'volume.delete',
      'finding.mute',
      'volume.create',
      'host.create',
      'zoning.join',
      'target.configure',
      'mapping.create',
      'storage.give',
      'what-if',
      'merge',
      'zoning-file',
      'port.configure',
      'host-device.format',
      'plan.create',
      'snapshot.create',
      'copy.go-back',
      'partner.introduce',
      'replication.create',
      'drill.start',
      'stretch.create',
      'limit.create',
      'storage.move',
      'io-trace',
      'stretch.force',
      'lab',
      'hosts',
      'file',
    ]) {
      // Beside a plain view: the Span was looked at already.
      await page.goto(`/changes?sheet=${sheet}`);
      await expect(page.getByRole('complementary').getByRole('heading').first()).toHaveText(/\S/);
      await page.waitForTimeout(400);
      await axe(page, sheet, '[role=complementary], aside');
    }
    await page.goto(`/changes?sheet=host&with=${encodeURIComponent(JSON.stringify({ host: 'berth-sim' }))}`);
    await expect(page.getByRole('table', { name: 'Discovery log' })).toBeVisible();
    await axe(page, 'host', '[role=complementary], aside');
    await page.goto('/protection');
    await expect(page.getByRole('table', { name: 'Restore points' })).toBeVisible();
    await axe(page, 'protection');
    for (const part of ['elsewhere', 'plans', 'promises']) {
      await page.goto(`/protection?part=${part}`);
      await expect(page.getByRole('table').first()).toBeVisible();
      await axe(page, `protection ${part}`);
    }
    await page.goto('/protection?part=elsewhere&planning=yes');
    await expect(page.getByRole('table', { name: 'The scarcest day of the line' })).toBeVisible();
    await axe(page, 'planner');
    await page.goto('/protection?part=elsewhere');
    await page
      .getByRole('button', { name: /^drill-/ })
      .first()
      .click();
    await expect(page.getByRole('region', { name: 'Drill' })).toBeVisible();
    await axe(page, 'drill');
    await page.goto('/moves');
    await expect(page.getByRole('option', { name: /^stowage/ })).toBeVisible();
    await axe(page, 'moves');
    await page.goto('/fabric');
    for (const part of ['Topology', 'Zones', 'Networks', 'Load']) {
      await page.getByRole('button', { name: part, exact: true }).click();
      await page.waitForTimeout(600);
      await axe(page, `fabric ${part}`, 'main');
    }
    for (const view of ['capacity', 'findings', 'fabric']) {
      await page.goto(`/${view}`);
      await page.waitForTimeout(900);
      await axe(page, view);
    }
    await page.goto('/changes');
    await expect(page.getByRole('table', { name: 'Changes' })).toBeVisible();
    await axe(page, 'changes');
    await page.goto(`/changes?sheet=change&with=${withId}`);
    await expect(page.getByRole('list', { name: 'Log' })).toBeVisible();
    await axe(page, 'change');
  });
