import { iqn } from '../../../demo/names';
import { carryOut, estateAfter, mapped } from '../../../demo/workbench';
import { registeredNodes } from './registry';

const served = () => {
  const estate = estateAfter(mapped);
  carryOut(estate, [{ do: 'name-server.configure', name: 'names', ip: '10.40.1.5' }], 'server');
  carryOut(
    estate,
    [{ do: 'mapping.delete', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1', 'tickets-2'] }],
    'free',
  );
  carryOut(estate, [{ do: 'host.configure', host: 'gate-1', discovery: 'isns' }], 'ask');
  return estate;
};
const gate = (estate: ReturnType<typeof served>) => registeredNodes(estate).find((node) => node.role === 'initiator')!;

test('targets register with their portals, hosts that ask with their addresses; who is in no domain is told of nothing', () => {
  const estate = served();
  expect(gate(estate)).toEqual({
    name: iqn('gate-1'),
    role: 'initiator',
    entity: 'gate-1',
    portals: ['10.40.1.51', '10.40.2.51'],
    domains: [],
    control: false,
    discovers: [],
  });
  const target = registeredNodes(estate).find((node) => node.entity === 'lintel-1')!;
  expect(target).toMatchObject({ name: iqn('lintel-1'), role: 'target', domains: [] });
  expect(target.portals).toContain('10.40.1.11:3260');
});

test('a target that is off, or registers no longer, is not held', () => {
  const estate = served();
  carryOut(estate, [{ do: 'target.configure', array: 'lintel-1', isns: false }], 'off');
  expect(registeredNodes(estate).some((node) => node.entity === 'lintel-1')).toBe(false);
});

test('a domain in an enabled set shows what it holds; a control node sees all', () => {
  const estate = served();
  carryOut(
    estate,
    [
      { do: 'discovery-domain.create', name: 'gates', members: ['gate-1', 'lintel-1'] },
      { do: 'domain-set.create', name: 'day', domains: ['gates'] },
    ],
    'domain',
  );
  expect(gate(estate)).toMatchObject({ domains: ['gates'], discovers: ['lintel-1'] });
  carryOut(estate, [{ do: 'name-server.configure', name: 'names', controlNodes: ['gate-1'] }], 'control');
  expect(gate(estate)).toMatchObject({ control: true });
  expect(gate(estate).discovers.length).toBeGreaterThan(1);
});

test('while no name server answers, nothing is held', () => expect(registeredNodes(estateAfter(mapped))).toEqual([]));
