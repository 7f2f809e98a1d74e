import { LAB_START } from '../../../demo/hardware';
import { stretched } from '../../../demo/stretched';
import { demoEstate } from '../../../demo/scenario';
import { changed } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { lookUp } from '../operation/inquiry';
import { nextPorts, portLoads, trafficRates } from '../attach/port-load';
import { auditFabric } from '../fabric/audit';
import { auditMend } from './audit-mend';
import { hostView } from './host-view';
import { loadView } from './load-view';
import { fabricModels } from './matrix';
import { targetView } from './target-view';
import { topology } from './topology';
import { outageReport, whatIf } from '../whatif/report';

const { estate: demo } = demoEstate();
const host = (name: string) => lookUp(demo, 'host', name)!;
const array = (name: string) => lookUp(demo, 'array', name)!;

test('ports of a server that is nobody’s yet know each other by their node name', () => {
  const [a, b] = fabricModels(demo);
  const loose = [...a!.logins, ...b!.logins].filter((login) => login.owner === '' && login.role === 'initiator');
  expect(loose.length).toBeGreaterThan(1);
  for (const login of loose) {
    const same = loose.filter((other) => other.wwnn === login.wwnn && other.wwpn !== login.wwpn);
    expect(login.siblings.sort()).toEqual(same.map((other) => other.wwpn).sort());
  }
  expect(a!.logins.filter((login) => login.owner !== '').every((login) => login.siblings.length === 0)).toBe(true);
});

describe('a host and what it has found', () => {
  test('each device has its paths with shares that sum to one, and one identity on both sides', () => {
    const seen = hostView(demo, host('cargo-db-1'));
    expect(seen.devices.map((line) => line.volume)).toEqual(['cargo-data', 'cargo-log']);
    for (const line of seen.devices) {
      expect(line).toMatchObject({ found: 4, expected: 4, optimized: 2, identity: { equal: true } });
      expect(line.paths.reduce((sum, path) => sum + path.share, 0)).toBeCloseTo(1);
      expect(line.paths.filter((path) => path.share > 0)).toHaveLength(2);
    }
    expect(seen.names.map((one) => one.kind)).toEqual(['WWPN', 'WWPN']);
    expect(seen.sessions).toMatchObject([{ array: 'lintel-1', transport: 'fc', up: 4, expected: 4, why: '' }]);
  });
  test('missing paths say why, with a mend', () => {
    const overlay = new Overlay(demo);
    const port = lookUp(demo, 'port', 'a4', array('lintel-1').id)!;
    overlay.apply([changed('port', port, { state: 'down' })]);
    const seen = hostView(overlay, host('gate-1'));
    const missing = seen.devices[0]!.paths.find((path) => path.state === 'missing');
    expect(missing).toMatchObject({ from: 'eth0', to: 'a4', share: 0 });
    expect(missing!.why).toContain('down');
    expect(seen.sessions.find((line) => line.array === 'lintel-1')).toMatchObject({ up: 3, expected: 4 });
  });
  test('an NVMe host reads its discovery log; an iSCSI host knows which targets are offered', () => {
    const berth = hostView(demo, host('berth-sim'));
    expect(berth.discovery).toMatchObject({ warnings: [] });
    expect(berth.discovery.entries).toHaveLength(4);
    expect(new Set(berth.devices[0]!.paths.map((path) => path.group)).size).toBe(1);
    expect([1, 2]).toContain(berth.devices[0]!.paths[0]!.group);
    expect(hostView(demo, host('gate-1')).devices[0]!.paths[0]!.group).toBeNull();
    const radar = hostView(demo, host('radar-vault'));
    expect(radar.targets.find((one) => one.array === 'purlin-1')).toMatchObject({ offered: true, by: 'addresses' });
    expect(radar.discovery).toEqual({ entries: [], warnings: [] });
  });
});

describe('the topology', () => {
  test('holds every host, switch, array and used network, and every connection once', () => {
    const { nodes, edges } = topology(demo, LAB_START);
    const count = (kind: string) => nodes.filter((node) => node.kind === kind).length;
    expect([count('host'), count('switch'), count('array')]).toEqual([
      demo.table('host').size,
      demo.table('switch').size,
      demo.table('array').size,
    ]);
    expect(edges.filter((edge) => edge.kind === 'isl')).toHaveLength(4);
    expect(new Set(edges.map((edge) => edge.id)).size).toBe(edges.length);
    const ids = new Set(nodes.map((node) => node.id));
    for (const edge of edges) expect([ids.has(edge.from), ids.has(edge.to)]).toEqual([true, true]);
  });
  test('a trace marks the way, both ends included, and nothing else', () => {
    const volume = lookUp(demo, 'volume', 'stores-1', array('lintel-1').id)!;
    const { nodes, edges } = topology(demo, LAB_START, { trace: { host: host('deck-3').id, volume: volume.id } });
    expect(
      nodes
        .filter((node) => node.mark === 'trace')
        .map((node) => node.name)
        .sort(),
    ).toEqual(['a1', 'a2', 'b1', 'b2', 'deck-3', 'lintel-1']);
    expect(edges.filter((edge) => edge.kind === 'isl' && edge.mark === 'trace')).toHaveLength(4);
  });
  test('what-if marks what fails, with its parts, and whom it hurts', () => {
    const { nodes, edges } = topology(demo, LAB_START, { failed: [lookUp(demo, 'switch', 'a2')!.id] });
    const mark = (name: string) => nodes.find((node) => node.name === name)!.mark;
    expect([mark('a2'), mark('ledger-1'), mark('deck-3'), mark('gate-1')]).toEqual(['failed', 'lost', 'hurt', null]);
    expect(edges.filter((edge) => edge.kind === 'isl' && edge.mark === 'failed')).toHaveLength(2);
  });
});

describe('load', () => {
  const busy = new Overlay(demo);
  const [device] = demo
    .table('hostDevice')
    .by('host', host('deck-1').id)
    .filter((row) => row.mountPoint);
  busy.apply([changed('hostDevice', device!, { writeRate: 8_000_000 })]);

  test('a device’s rate is shared over its optimized paths, at both ends and on no link of another site', () => {
    const rates = trafficRates(busy);
    const sum = (kind: 'port' | 'interface' | 'isl') =>
      [...busy.table(kind).values()].reduce((total, row) => total + (rates.get(row.id) ?? 0), 0);
    const all = [...busy.table('hostDevice').values()].reduce((total, row) => total + row.writeRate, 0);
    expect(sum('port')).toBeCloseTo(all);
    expect(sum('interface')).toBeCloseTo(all);
    expect(sum('isl')).toBe(0);
  });
  test('traffic between sites is shared by the links that are there', () => {
    const far = new Overlay(demo);
    const volume = demo.table('hostDevice').by('host', host('deck-3').id)[0]!;
    far.apply([changed('hostDevice', volume, { writeRate: 4_000_000 })]);
    const rates = trafficRates(far);
    expect([...far.table('isl').values()].map((isl) => rates.get(isl.id))).toEqual(Array(4).fill(1_000_000));
  });
  test('demand, overcommit and safe depth follow the definition', () => {
    const port = lookUp(demo, 'port', 'a2', array('lintel-1').id)!;
    const load = portLoads(demo).get(port.id)!;
    // Four hypervisors with one port each here, three LUNs at depth 32.
    expect(load).toMatchObject({ initiators: 4, hosts: 4, luns: 12, demand: 4 * 3 * 32, limit: 2048 });
    expect(load.overcommit).toBeCloseTo(384 / 2048);
    expect(load.safeDepth).toBe(Math.floor(2048 / 12));
  });
  test('the next host is best put on the ports with the least demand, one of each controller and side', () => {
    const names = nextPorts(demo, array('lintel-1').id, portLoads(demo)).map((port) => port.name);
    expect(names).toEqual(expect.arrayContaining(['a0', 'b0', 'a1', 'b1']));
    expect(names).not.toContain('a2');
  });
  test('the view names trunks and credits', () => {
    const { trunks, credits, ports } = loadView(demo);
    expect(trunks.map((line) => line.between).sort()).toEqual(['a1 to a2', 'b1 to b2']);
    expect(credits).toHaveLength(4);
    for (const line of credits) expect(line).toMatchObject({ credits: 720, needed: 596, share: 1 });
    expect(ports.every((line) => line.survivor >= line.utilisation)).toBe(true);
  });
});

test('targets, subsystems and networks are told with who uses them', () => {
  const view = targetView(demo);
  const lintel = view.targets.find((one) => one.array === 'lintel-1')!;
  expect(lintel.guests.find((guest) => guest.host === 'gate-1')).toMatchObject({ sessions: 4, expected: 4 });
  const slip = lintel.guests.find((guest) => guest.name.endsWith('radar-vailt'))!;
  expect(slip).toMatchObject({ access: 'read-only', sessions: 0, why: 'radar-vault shows another name' });
  expect(view.subsystems).toMatchObject([
    { name: 'berths', controllers: 4, allowed: [{ host: 'berth-sim' }], namespaces: [{ id: 1, volume: 'berths' }] },
  ]);
  expect(view.networks.find((one) => one.name === 'iscsi-b')!.interfaces.some((row) => row.mtu === 1500)).toBe(true);
});

test('the audit’s lines that an operation mends offer one', () => {
  for (const fabric of demo.table('fabric').values())
    for (const line of auditFabric(demo, fabric)) expect(auditMend(demo, fabric, line)).not.toBeNull();
});

describe('what-if as a report', () => {
  test('lists points of failure with the worst first, and pairs by what they cut', () => {
    const { spofs, pairs } = whatIf(demo, [], '', 0);
    expect(spofs).toHaveLength(demo.table('mapping').size);
    expect(spofs[0]!.host).toBe('ledger-1');
    expect(pairs[0]!.cuts).toBeGreaterThanOrEqual(pairs.at(-1)!.cuts);
    expect(
      pairs.some(
        (pair) =>
          pair.components
            .map((one) => one.name)
            .sort()
            .join() === 'a1,b1',
      ),
    ).toBe(true);
  });
  test('planned work reads as Markdown with who is hurt', () => {
    const text = outageReport(whatIf(demo, [lookUp(demo, 'switch', 'a2')!.id], '', 0).outage);
    expect(text).toContain('Down: switch a2.');
    expect(text).toMatch(
      /\| ledger-1 \| lintel-2 ledger \| loses its last path \| 2 → 0 \| \/srv\/ledger \| Accounts \|/,
    );
  });
});

test('the lines of a dead switch are drawn dead, those of others as they are', () => {
  const view = new Overlay(demo);
  const dead = lookUp(demo, 'switch', 'a2')!;
  view.apply([changed('switch', dead, { state: 'down' })]);
  const [before, after] = [topology(demo, LAB_START), topology(view, LAB_START)];
  const touches = (edge: { from: string; to: string }) => edge.from === dead.id || edge.to === dead.id;
  expect(after.edges.filter(touches).length).toBeGreaterThan(2);
  expect(after.edges.filter(touches).every((edge) => edge.up === 0)).toBe(true);
  const others = ({ edges }: typeof before) => edges.filter((edge) => !touches(edge)).map(({ id, up }) => [id, up]);
  expect(others(after)).toEqual(others(before));
});

test('links between sites are drawn from array to array, and say which inter-switch links run over them', () => {
  const at = stretched();
  const edges = () => topology(at.estate, at.now).edges;
  const line = () => edges().find(({ kind }) => kind === 'line')!;
  const array = (name: string) => lookUp(at.estate, 'array', name)!.id;
  expect(edges().filter(({ kind }) => kind === 'line')).toHaveLength(1);
  expect(line()).toMatchObject({
    label: 'dark fibre',
    from: array('lintel-1'),
    to: array('lintel-2'),
    up: 1,
  });
  expect(edges().map(({ label }) => label)).toContain('a1-a2-1 over dark fibre');
  const link = lookUp(at.estate, 'siteLink', 'dark fibre')!;
  at.estate.apply([changed('siteLink', link, { state: 'down' })]);
  expect(line().up).toBe(0);
});
