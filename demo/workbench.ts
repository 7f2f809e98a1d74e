import { planChange, type PlanBasis } from '@/core/change/plan';
import type { OperationDocument } from '@/core/change/registry';
import { estateToDocument } from '@/core/estate/document';
import type { Kind, Rows, Target } from '@/core/estate/entities';
import { Estate, type EstateView } from '@/core/estate/estate';
import { mainTarget } from '@/core/iscsi/target';
import { lookUp } from '@/core/operation/inquiry';
import { bareHardware, LAB_START } from './hardware';
import { iqn, slots } from './names';

/** What tests build with: bare machines, and a way to carry operations out on them. */
export const basis: PlanBasis = { seed: 'test', now: LAB_START, month: '2031-04' };

export function bareEstate(): Estate {
  const estate = new Estate();
  estate.apply(bareHardware());
  return estate;
}

/** Carries operations out; throws where one is refused. */
export function carryOut(estate: Estate, operations: readonly OperationDocument[], seed = 'test') {
  const plan = planChange(estate, operations, { ...basis, seed });
  if (plan.refusals.length > 0) throw new Error(plan.refusals.map((refusal) => refusal.message).join(' '));
  for (const step of plan.steps) estate.apply(step.effects);
  return plan.steps;
}

export const refusalsOf = (estate: EstateView, ...operations: OperationDocument[]) =>
  planChange(estate, operations, basis).refusals;
export const codesOf = (estate: EstateView, ...operations: OperationDocument[]): string[] =>
  refusalsOf(estate, ...operations).map((refusal) => refusal.code);

/** A fingerprint of all rows: equal estates give equal text, and a difference stays readable. */
export const snapshot = (view: EstateView): string => JSON.stringify(estateToDocument(view));

/** The rows of two estates that differ, by kind; empty where they are the same. */
export function differences(a: EstateView, b: EstateView): string[] {
  const [one, two] = [estateToDocument(a).estate, estateToDocument(b).estate] as unknown as [
    Record<string, { id: string }[]>,
    Record<string, { id: string }[]>,
  ];
  const texts = (rows: Record<string, { id: string }[]>) =>
    new Set(Object.entries(rows).flatMap(([kind, list]) => list.map((row) => `${kind} ${JSON.stringify(row)}`)));
  const [left, right] = [texts(one), texts(two)];
  return [
    ...[...left].filter((row) => !right.has(row)).map((row) => `- ${row}`),
    ...[...right].filter((row) => !left.has(row)).map((row) => `+ ${row}`),
  ];
}

/** A small chain: group, pool, two volumes and a host with two interfaces on lintel-1. */
export const smallChain: OperationDocument[] = [
  { do: 'raid-group.create', array: 'lintel-1', name: 'rg-1', level: 'raid6', drives: slots(0, 0, 9) },
  { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'] },
  { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'tickets', size: '200 GiB', count: 2 },
  {
    do: 'host.create',
    name: 'gate-1',
    os: 'linux',
    site: 'Nordkai',
    initiators: [iqn('gate-1')],
    interfaces: [
      { name: 'eth0', addresses: ['10.40.1.51/24'] },
      { name: 'eth1', addresses: ['10.40.2.51/24'] },
    ],
  },
];
export const mapped: OperationDocument[] = [
  ...smallChain,
  { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1', 'tickets-2'] },
];
export const mounted: OperationDocument[] = [
  ...mapped,
  { do: 'host.rescan', host: 'gate-1' },
  { do: 'host-device.format', host: 'gate-1', device: 'tickets-1', fileSystem: 'xfs', mountPoint: '/srv/tickets' },
];

/** A pool of flash and disks, and a volume of 40 GiB that lies on the disks. */
export const twoTiers: OperationDocument[] = [
  { do: 'raid-group.create', array: 'lintel-1', name: 'flash', level: 'raid1', drives: slots(0, 12, 13) },
  { do: 'raid-group.create', array: 'lintel-1', name: 'disks', level: 'raid6', drives: slots(1, 0, 7) },
  { do: 'pool.create', array: 'lintel-1', name: 'hold', raidGroups: ['flash', 'disks'] },
  {
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'hold',
    name: 'scanner',
    size: '40 GiB',
    provisioning: 'thick',
    tier: 'hdd-10k',
  },
];

/** The first row of a kind that bears a name. */
export const named = <K extends Kind>(view: EstateView, kind: K, name: string): Rows[K] =>
  [...view.table(kind).values()].find((row) => (row as { name?: string }).name === name)!;

/** The target that an array shows what names no other by. */
export const targetOf = (view: EstateView, array: string): Target =>
  mainTarget(view, lookUp(view, 'array', array)!.id)!;

/** An estate after the given operations. */
export function estateAfter(operations: readonly OperationDocument[]): Estate {
  const estate = bareEstate();
  carryOut(estate, operations);
  return estate;
}
