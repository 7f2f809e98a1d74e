import { expect, test, type APIRequestContext, type Page } from './test';
import { addToDraft, advance, begun, carryOut, choose, emptyTray, setClock } from './steps';

const iqn = (name: string) => `iqn.2031-04.example.skarholt:${name}`;
const nqn = (name: string) => `nqn.2031-04.example.skarholt:${name}`;
const SECRET = 'tide tables of 2031';

/** Hosts nobody works with: at Molenhaven over iSCSI, at Nordkai over NVMe/TCP, and the new ticketing server. */
test.beforeAll(async ({ request }) => {
  await setClock(request, 0);
  // After a test that failed the rest goes on with the hosts that are there.
  if ((await request.get('/api/v1/hosts/rota-9')).ok()) return;
  await carryOut(request, 'Hosts to break', [
    {
      do: 'host.create',
      name: 'rota-9',
      os: 'linux',
      site: 'Molenhaven',
      initiators: [iqn('rota-9')],
      interfaces: [{ name: 'eth0', addresses: ['10.41.1.91/24'], mtu: 9000 }],
    },
    { do: 'volume.create', array: 'lintel-2', pool: 'quay', name: 'probe', size: '1 GiB' },
    { do: 'mapping.create', host: 'rota-9', array: 'lintel-2', volumes: ['probe'] },
    { do: 'host.rescan', host: 'rota-9' },
    {
      do: 'host.create',
      name: 'tide-9',
      os: 'linux',
      site: 'Nordkai',
      initiators: [nqn('tide-9')],
      interfaces: [{ name: 'eth0', addresses: ['10.40.11.99/24'] }],
    },
    { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'tides', size: '1 GiB' },
    { do: 'mapping.create', host: 'tide-9', array: 'lintel-1', volumes: ['tides'], subsystem: 'berths' },
  ]);
});
test.beforeEach(async ({ request }) => {
  await setClock(request, 0);
  await emptyTray(request);
});

interface Situation {
  host?: string;
  volume?: string;
  broken: object[];
  hop: RegExp;
  reason: string;
  mend: string;
  /** What a person enters before the mend can be added. */
  fill?: (page: Page) => Promise<void>;
  /** Puts the rest back. */
  after?: object[];
}

const situations: Record<string, Situation> = {
  'not mapped': {
    broken: [{ do: 'mapping.delete', host: 'rota-9', array: 'lintel-2', volumes: ['probe'] }],
    hop: /^5 Mapping: fail/,
    reason: 'not-mapped',
    mend: 'Map it',
  },
  'an array port without a role': {
    broken: ['a4', 'b4'].map((port) => ({ do: 'port.configure', array: 'lintel-2', port, role: 'none' })),
    hop: /^6 Array port: fail/,
    reason: 'port-role-off',
    mend: 'Set up the port',
    fill: (page) => choose(page, 'Role', /iSCSI/),
    // The trace goes by b4, which is mended in it.
    after: [{ do: 'port.configure', array: 'lintel-2', port: 'a4', role: 'iscsi' }],
  },
  'another VLAN': {
    broken: [{ do: 'interface.configure', host: 'rota-9', interface: 'eth0', vlan: 7 }],
    hop: /^8 Zone or network: fail/,
    reason: 'vlan-mismatch',
    mend: 'Set up the interface',
    fill: async (page) => {
      await page.getByRole('button', { name: /^More/ }).click();
      await page.getByLabel('VLAN', { exact: true }).fill('501');
    },
  },
  'a name off by a letter': {
    broken: [{ do: 'host.configure', host: 'rota-9', presents: iqn('rotta-9') }],
    hop: /^9 Initiator: fail/,
    reason: 'initiator-unknown',
    mend: 'Correct the name',
    after: [
      { do: 'host.configure', host: 'rota-9', presents: iqn('rota-9'), initiators: [iqn('rota-9')] },
      { do: 'host.rescan', host: 'rota-9' },
    ],
  },
  'no domain set that shows the target': {
    broken: [
      { do: 'name-server.configure', name: 'isns-1', ip: '10.41.1.5', defaultDomain: false },
      { do: 'discovery-domain.create', name: 'rota', members: ['rota-9', 'lintel-2'] },
      { do: 'domain-set.create', name: 'harbour', domains: ['rota'], enabled: false },
      { do: 'host.configure', host: 'rota-9', discovery: 'isns' },
    ],
    hop: /^10 Discovery: fail/,
    reason: 'not-discovered',
    mend: 'Enable harbour',
    after: [{ do: 'host.configure', host: 'rota-9', discovery: 'addresses' }],
  },
  'a login nobody asked for': {
    broken: [{ do: 'host.configure', host: 'rota-9', autoLogin: false }],
    hop: /^10 Discovery: fail/,
    reason: 'not-logged-in',
    mend: 'Log in',
    after: [{ do: 'host.configure', host: 'rota-9', autoLogin: true }],
  },
  'an access list that keeps it out': {
    broken: [
      { do: 'initiator.configure', host: 'rota-9', initiator: iqn('rota-9'), array: 'lintel-2', access: 'none' },
    ],
    hop: /^11 Login: fail/,
    reason: 'access-none',
    mend: 'Grant access',
  },
  'a secret that is missing': {
    broken: [
      { do: 'initiator.configure', host: 'rota-9', initiator: iqn('rota-9'), chapSecret: SECRET },
      { do: 'target.configure', array: 'lintel-2', auth: 'one-way' },
    ],
    hop: /^11 Login: fail/,
    reason: 'chap-failed',
    mend: 'Enter the secret',
    fill: async (page) => {
      // The mend opens on the matter: the folded field is there, and has the focus.
      await expect(page.getByLabel('Its secret', { exact: true })).toBeFocused();
      await page.getByLabel('Its secret', { exact: true }).fill(SECRET);
    },
    after: [{ do: 'target.configure', array: 'lintel-2', auth: 'none' }],
  },
  'a host that has not looked': {
    broken: [{ do: 'host-device.remove', host: 'rota-9', device: 'probe' }],
    hop: /^13 Host device: fail/,
    reason: 'rescan-needed',
    mend: 'Rescan',
  },
  'a host NQN that is not allowed': {
    host: 'tide-9',
    volume: 'tides',
    broken: [],
    hop: /^11 Login: fail/,
    reason: 'nqn-not-allowed',
    mend: 'Let it connect',
  },
};

const sheetOf = (page: Page) => page.getByRole('complementary');
const openTrace = (page: Page, host: string, volume: string) =>
  page.goto(`/fabric?sheet=trace&with=${encodeURIComponent(JSON.stringify({ host, volume }))}`);

async function runDraft(page: Page, request: APIRequestContext): Promise<void> {
  await page.getByRole('button', { name: 'Review', exact: true }).click();
  const run = sheetOf(page).getByRole('button', { name: 'Run' });
  await expect(run).toBeEnabled();
  await run.click();
  await begun(page);
  await advance(request, 120);
  await expect(sheetOf(page).getByText(/^(\d+) of \1 steps stand/)).toBeVisible();
}

for (const [what, one] of Object.entries(situations))
  test(`broken and mended through the trace: ${what}`, async ({ page, request }) => {
    const [host, volume] = [one.host ?? 'rota-9', one.volume ?? 'probe'];
    if (one.broken.length > 0) await carryOut(request, `Break: ${what}`, one.broken);
    await openTrace(page, host, volume);
    const sheet = sheetOf(page);
    const hop = sheet.getByRole('listitem', { name: one.hop });
    await expect(hop).toContainText('First break');
    await expect(hop).toContainText(one.reason);
    await hop.getByRole('button', { name: one.mend }).click();
    await one.fill?.(page);
    await addToDraft(page);
    await runDraft(page, request);
    await openTrace(page, host, volume);
    await expect(sheet.getByText(/First break/)).toHaveCount(0);
    await expect(sheet.getByText('The chain holds from the drives to the host.')).toBeVisible();
    if (one.after) await carryOut(request, `Put back: ${what}`, one.after);
  });

test('a secret that was entered is nowhere to be read: not in the estate, in changes or in their files', async ({
  request,
}) => {
  await carryOut(request, 'A secret for rota-9', [{ do: 'host.configure', host: 'rota-9', chapSecret: SECRET }]);
  const { items } = (await (await request.get('/api/v1/changes')).json()) as { items: { id: string; title: string }[] };
  const texts = await Promise.all(
    [
      '/api/v1/estate',
      '/api/v1/estate?format=yaml',
      ...items.flatMap(({ id }) => [`/api/v1/changes/${id}`, `/api/v1/changes/${id}?format=yaml`]),
    ].map(async (path) => (await request.get(path)).text()),
  );
  expect(items.some(({ title }) => title === 'A secret for rota-9')).toBe(true);
  for (const text of texts) expect(text.includes(SECRET)).toBe(false);
  expect(texts.some((text) => text.includes('sealed:'))).toBe(true);
});

test('a new server over Fibre Channel: mapped, not zoned, joined, found; then planned work is foretold', async ({
  page,
  request,
}) => {
  const { items } = (await (await request.get('/api/v1/interfaces?kind=fc')).json()) as {
    items: { host: string | null; wwpn: string }[];
  };
  const wwpns = items.filter((row) => row.host === null).map((row) => row.wwpn);
  expect(wwpns).toHaveLength(2);
  await carryOut(request, 'Register it', [
    { do: 'host.create', name: 'ticket-3', os: 'linux', site: 'Nordkai', initiators: wwpns },
    { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'ticket-probe', size: '1 GiB' },
    { do: 'mapping.create', host: 'ticket-3', array: 'lintel-1', volumes: ['ticket-probe'] },
  ]);
  await openTrace(page, 'ticket-3', 'ticket-probe');
  const sheet = sheetOf(page);
  const zone = sheet.getByRole('listitem', { name: /^8 Zone or network: fail/ });
  await expect(zone).toContainText('not-zoned');
  await zone.getByRole('button', { name: 'Join them' }).click();
  await addToDraft(page);
  await runDraft(page, request);
  await openTrace(page, 'ticket-3', 'ticket-probe');
  await sheet
    .getByRole('listitem', { name: /^13 Host device: fail/ })
    .getByRole('button', { name: 'Rescan' })
    .click();
  await addToDraft(page);
  await runDraft(page, request);
  await openTrace(page, 'ticket-3', 'ticket-probe');
  await expect(sheet.getByText('The chain holds on 1 of 2 legs, over B: A carries nothing.')).toBeVisible();

  // One fabric only: the switch is a single point of failure, and work on it would hurt.
  await page.goto(`/fabric?sheet=what-if&with=${encodeURIComponent(JSON.stringify({ failed: [] }))}`);
  await expect(sheet.getByText('Tick what shall fail.')).toBeVisible();
  await sheet.getByRole('button', { name: 'Single points of failure' }).click();
  const line = sheet.getByRole('row', { name: /^ticket-3/ });
  await expect(line).toContainText(/a1|b1/);
  await line.getByRole('button', { name: /^(a1|b1)$/ }).click();
  await sheet.getByRole('button', { name: 'Who is hurt' }).click();
  await expect(sheet.getByRole('row', { name: /ticket-3 ticket-probe/ })).toContainText('loses its last path');
  await expect(page.getByRole('button', { name: /^host ticket-3, no path left/ })).toBeVisible();
  await expect(sheet.getByRole('link', { name: 'Report of planned work' })).toHaveAttribute('href', /format=markdown/);
  const report = await request.get('/api/v1/what-if?failed=a1&format=markdown');
  expect(await report.text()).toContain('Down: switch a1.');
});

test('storage is given in one go, every step visible, and taken back without a trace', async ({ page, request }) => {
  await page.goto('/?sheet=storage.give');
  const sheet = sheetOf(page);
  await choose(page, 'Or cluster', 'cargo');
  await page.getByLabel('Size', { exact: true }).fill('20 GiB');
  // Which is best depends on what else goes on; the cluster has its zones with lintel-1.
  await expect(sheet.getByText(/The best: [a-z]+-\d\/[a-z]+\./)).toBeVisible();
  await choose(page, 'Pool', /^lintel-1.*quay|quay.*lintel-1/);
  await expect(
    sheet.getByText(/Map cargo-\d to cargo \(cargo-db-1, cargo-db-2\) as LUN \d: 8 of 8 paths/),
  ).toBeVisible();
  await addToDraft(page);
  await page.getByRole('button', { name: 'Review', exact: true }).click();
  // The recipe is unfolded: each of its steps can be changed.
  await expect(sheet.getByText(/^Carve cargo-\d/)).toBeVisible();
  await expect(sheet.getByText(/^Rescan cargo-db-\d/)).toHaveCount(2);
  await sheet.getByRole('button', { name: 'Run' }).click();
  await advance(request, 200);
  await expect(sheet.getByText(/^(\d+) of \1 steps stand/)).toBeVisible();
  const { items } = (await (await request.get('/api/v1/devices')).json()) as {
    items: { name: string; mountPoint: string | null }[];
  };
  const point = items.find((device) => /\/srv\/cargo-\d$/.test(device.mountPoint ?? ''))!.mountPoint!;
  const name = point.split('/').at(-1)!;
  await emptyTray(request);
  await carryOut(request, 'Take it back', [
    { do: 'storage.take-back', cluster: 'cargo', array: 'lintel-1', volumes: [name], confirm: [name], keepDays: 0 },
  ]);
  expect((await request.get(`/api/v1/volumes/lintel-1/${name}`)).status()).toBe(404);
});

test('a host shows devices, paths, what happened to them, and a login is tested on both sides', async ({
  page,
  request,
}) => {
  await request.post('/api/v1/lab/faults', { data: { kind: 'switch-down', component: 'b1' } });
  await page.goto(`/?sheet=host&with=${encodeURIComponent(JSON.stringify({ host: 'cargo-db-1' }))}`);
  const sheet = sheetOf(page);
  const paths = sheet.getByRole('table', { name: 'Paths of cargo-data' });
  await expect(paths.getByText(/switch b1 is down/)).toHaveCount(2);
  await expect(paths.getByText(/lost, the host notices at /)).toHaveCount(2);
  await advance(request, 1);
  await expect(paths.getByText(/failed since .*, given up at /)).toHaveCount(2);
  await expect(sheet.getByRole('list', { name: 'Path events' })).toContainText('the host went on after 200 ms');
  await request.post('/api/v1/lab/faults', { data: { kind: 'switch-down', component: 'b1', clear: true } });
  await expect(sheet.getByRole('button', { name: '4 of 4 paths of cargo-data' })).toBeVisible();
  await page.goto(`/?sheet=login&with=${encodeURIComponent(JSON.stringify({ host: 'gate-1', array: 'lintel-1' }))}`);
  await expect(sheet.getByRole('status')).toContainText('Status 0000.');
  await expect(sheet.getByRole('table', { name: 'Log of both sides' })).toContainText('Full feature phase.');
});

test('Fabric: topology, networks, load; zoning leaves and comes as a file; compare before activation', async ({
  page,
  request,
}) => {
  await page.goto('/fabric');
  await page.getByRole('button', { name: 'Topology' }).click();
  await expect(page.getByRole('button', { name: /^switch a1, fabric A/ })).toBeVisible();
  await page.getByRole('button', { name: 'Utilisation' }).click();
  await expect(page.locator('.topo-text', { hasText: 'under 1 %' }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Networks' }).click();
  await expect(page.getByRole('table', { name: 'Portals of lintel-1' })).toContainText('10.40.1.11/24');
  await page.getByRole('button', { name: 'Load', exact: true }).click();
  await expect(page.getByRole('table', { name: 'Buffer credits' })).toContainText('596');
  await page.getByRole('button', { name: 'Zones' }).click();
  const csv = await (await request.get('/api/v1/zoning?format=csv&fabric=A')).text();
  await page.getByRole('button', { name: 'Import aliases and zones' }).click();
  await page
    .getByLabel('List of aliases and zones')
    .fill(`${csv}A,zone,from_file,ordinary,deck-1_hba0; lintel-1_a2,\nA,zone,9bad,ordinary,deck-1_hba0,`);
  await page.getByRole('button', { name: 'Read the list' }).click();
  const report = page.getByRole('table', { name: 'What became of each line' });
  await expect(report.getByText('Taken. It is there as it stands.').first()).toBeVisible();
  await expect(report.getByRole('row', { name: /9bad/ })).toContainText('begins with 9');
  await page.getByRole('button', { name: 'Review the change' }).click();
  await sheetOf(page).getByRole('button', { name: 'Run' }).click();
  await advance(request, 30);
  await page.goto(`/fabric?sheet=compare&with=${encodeURIComponent(JSON.stringify({ fabric: 'A' }))}`);
  await expect(sheetOf(page).getByRole('row', { name: /from_file/ })).toContainText('comes');
  await sheetOf(page)
    .getByRole('button', { name: /^Activate/ })
    .click();
  await addToDraft(page);
  await runDraft(page, request);
  await page.goto(`/fabric?sheet=compare&with=${encodeURIComponent(JSON.stringify({ fabric: 'A' }))}`);
  await expect(sheetOf(page).getByRole('status')).toContainText('is what the switches enforce');
  await page.goto('/fabric?sheet=merge');
  await expect(sheetOf(page).getByRole('status')).toContainText('They would');
  expect(await (await request.get('/api/v1/topology?format=graphml')).text()).toContain('<graphml');
});

test('a target of its own is made, shown with who may and who does, and switched off only where nothing hangs on it', async ({
  page,
  request,
}) => {
  await page.goto('/fabric?part=networks');
  const main = page.getByRole('region', { name: 'Target of lintel-2', exact: true });
  await main.getByRole('button', { name: 'Another target of lintel-2' }).click();
  await page.getByLabel('Alias').fill('night');
  await page.getByLabel('Except', { exact: true }).fill('rota-9 read-only');
  await expect(page.getByText(/^Target night of lintel-2: 10\.41\./)).toBeVisible();
  await addToDraft(page);
  await emptyTray(request);
  await carryOut(request, 'A target of its own', [
    { do: 'target.create', array: 'lintel-2', name: 'night', exceptions: ['rota-9 read-only'] },
    { do: 'volume.create', array: 'lintel-2', pool: 'quay', name: 'watch', size: '1 GiB' },
    { do: 'mapping.create', host: 'rota-9', array: 'lintel-2', volumes: ['watch'], target: 'night' },
  ]);
  const night = page.getByRole('region', { name: 'Target night of lintel-2' });
  await expect(night).toContainText('except rota-9 read-only; shows watch');
  await night.getByText(/^\d+ sessions? of lintel-2 target night$/).click();
  await expect(night.getByRole('table', { name: 'Sessions at lintel-2 target night' })).toContainText('rota-9');
  await night.getByRole('button', { name: 'Test login of rota-9 at lintel-2' }).click();
  await expect(page.getByText(/TargetName=iqn\.2031-04\.example\.skarholt:lintel-2\.night/)).toBeVisible();
  await carryOut(request, 'It goes again', [
    { do: 'mapping.delete', host: 'rota-9', array: 'lintel-2', volumes: ['watch'] },
    { do: 'target.delete', array: 'lintel-2', name: 'night' },
  ]);
  await expect(night).toHaveCount(0);
});
