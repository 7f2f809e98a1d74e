import { bareEstate, carryOut } from '../../../demo/workbench';
import { serverWwpn } from '../../../demo/hardware';
import type { Estate } from '../estate/estate';
import { pathFinder } from '../attach/paths';

export const wwpn = (server: string, port: string) => serverWwpn(server, port);

export const registered = (name: string) => ({
  do: 'host.create',
  name,
  os: 'linux',
  site: 'Nordkai',
  initiators: [wwpn(name, 'hba0'), wwpn(name, 'hba1')],
});

export const carved = [
  {
    do: 'raid-group.create',
    array: 'lintel-1',
    name: 'rg-1',
    level: 'raid6',
    drives: Array.from({ length: 10 }, (_, k) => `0:${k}`),
  },
  { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'] },
  { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'cargo', size: '200 GiB' },
];

export const attached = [
  ...carved,
  registered('cargo-db-1'),
  { do: 'zoning.join', fabric: 'A', host: 'cargo-db-1', array: 'lintel-1' },
  { do: 'zoning.join', fabric: 'B', host: 'cargo-db-1', array: 'lintel-1' },
  { do: 'mapping.create', host: 'cargo-db-1', array: 'lintel-1', volumes: ['cargo'] },
];

export const after = (operations: { do: string }[]): Estate => {
  const estate = bareEstate();
  carryOut(estate, operations);
  return estate;
};

export const fabricNamed = (estate: Estate, name: string) =>
  [...estate.table('fabric').values()].find((row) => row.name === name)!;

export const switchNamed = (estate: Estate, name: string) =>
  [...estate.table('switch').values()].find((row) => row.name === name)!;

export const pathsOf = (estate: Estate) => pathFinder(estate).paths([...estate.table('mapping').values()][0]!);
