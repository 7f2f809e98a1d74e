import { z } from 'zod';
import { contextFor, type PlanBasis } from '@/core/change/plan';
import { recipeTypes } from '@/core/change/recipes';
import { operationTypes, type OperationDocument } from '@/core/change/registry';
import type { EstateView } from '@/core/estate/estate';
import { driveRef } from '@/core/operation/inquiry';
import type { FieldForetold, OperationType } from '@/core/operation/operation';
import type { RecipeType } from '@/core/operation/recipe';

type Random = () => number;
type Draft = Record<string, unknown>;

export const chance = (random: Random, share: number): boolean => random() < share;
export const pick = <T>(random: Random, list: readonly T[]): T | undefined => list[Math.floor(random() * list.length)];

/** Few names, so that they are taken, freed and taken again. */
const names = ['aft', 'bow', 'cleat', 'davit', 'fender', 'gangway', 'hawser'];
const secrets = ['sealed:00112233445566778899aabbccddeeff', 'sealed:ffeeddccbbaa99887766554433221100'];
const sizes = ['10 GiB', '64 MiB', '102400 B', '40 GiB', '3 TiB', '250 TiB', '1 GiB', '20G', 'much'];

/** Values of fields that the estate does not foretell, by the field's name. */
const byName: Record<string, (random: Random, view: EstateView, draft: Draft) => unknown> = {
  name: (r) => pick(r, names),
  newName: (r) => pick(r, names),
  size: (r) => pick(r, sizes),
  capacity: (r) => pick(r, ['3.84 TB', '16 TB', '2.4 TB', 'large']),
  chunk: (r) => pick(r, ['64 KiB', '256 KiB', '7 KiB']),
  extentSize: (r) => pick(r, ['64 MiB', '1 GiB']),
  stripe: (r) => pick(r, ['4+1', '8+2', '2+1']),
  count: (r) => 1 + Math.floor(r() * 3),
  lun: (r) => (chance(r, 0.5) ? 'next' : Math.floor(r() * 5)),
  subscriptionLimit: (r) => pick(r, ['none', '120', '300']),
  plannedReduction: (r) => pick(r, [1, 1.8, 3]),
  weights: (r) => [
    `${pick(r, ['eth0', 'eth1', 'hba0', 'hba1'])} ${pick(r, ['a0', 'a1', 'a4', 'a6'])} ${pick(r, [0, 50, 300])}`,
  ],
  referrals: (r) => [pick(r, ['10.40.11.11', '10.40.11.99', '10.40.1.11:8009', 'nowhere'])],
  keepDays: (r) => pick(r, [0, 0, 7]),
  notice: (r) => pick(r, [60, 70, 95]),
  urgent: (r) => pick(r, [80, 90]),
  mountPoint: (r) => `/srv/${pick(r, names)}`,
  fileSystem: (r) => pick(r, ['xfs', 'gfs2', 'ufs']),
  confirm: (_r, _view, draft) => draft.volumes ?? draft.replication ?? draft.peer,
  shownSecret: (r) => pick(r, ['', ...secrets]),
  expectedSecret: (r) => pick(r, ['', ...secrets]),
  offers: (r) => [pick(r, ['quay 4 TiB', 'hold 40 TiB', 'quay much', 'keel 1 TiB'])],
  quota: (r) => pick(r, ['10 TiB', 'none']),
  quotaVolumes: (r) => pick(r, ['4', '40', 'none', 'some']),
  quotaUntil: (r) => pick(r, ['2032-01-01', 'never']),
  secretUntil: (r) => pick(r, ['2031-05-01', 'never']),
  shares: (r) => [
    pick(r, ['ssd-nvme 0-60', 'ssd-nvme never', 'hdd-10k at most 40', 'ssd-sas at least 10', 'tape all']),
    pick(r, ['hdd-10k 0-100', 'hdd-7k never', 'ssd-nvme all']),
  ],
  rules: (r) => [
    pick(r, ['media at least ssd-sata', 'protection at least 1', 'cost between 40 and 60', 'quick']),
    pick(r, ['hours is not office', 'cost at most 30', 'encryption is no']),
  ],
  key: (r) => pick(r, ['cost', 'hours', 'media', 'place', 'two words']),
  value: (r) => pick(r, ['52', 'office', 'Nordkai, Oever', 'yes']),
  words: (r) => pick(r, [['low', 'high'], ['low'], []]),
  pools: (r) => [pick(r, ['lintel-1 quay 4 TiB', 'lintel-1 hold 100 GiB', 'nowhere 1 TiB'])],
  goalMs: (r) => pick(r, ['', 5, 0.1]),
  interval: (r) => pick(r, ['10 min', '1 h', 'often']),
  goal: (r) => pick(r, ['30 min', '2 h', 'none']),
  budget: (r) => pick(r, ['5', '0.1', 'none']),
  log: (r) => pick(r, ['8 GiB', '64 MiB', 'none']),
  cap: (r) => pick(r, ['10 MiB/s', 'none']),
  dayCap: (r) => pick(r, ['10 MiB/s', 'none']),
  nightCap: (r) => pick(r, ['50 MiB/s', 'none']),
  detect: (r) => pick(r, ['5 min', '1 h']),
  decide: (r) => pick(r, ['5 min', '1 h']),
  speed: (r) => pick(r, ['10 Gb/s', '1 Gb/s', '100 Mb/s', 'fast']),
  hostShrunk: (r) => chance(r, 0.7),
  addresses: (r) =>
    chance(r, 0.2)
      ? [`2001:db8:40:1::${11 + Math.floor(r() * 20)}/64`]
      : [`10.40.${pick(r, [1, 2, 11])}.${11 + Math.floor(r() * 60)}/24`],
  address: (r) => `10.40.1.${11 + Math.floor(r() * 8)}`,
  ip: (r) => `10.40.1.${200 + Math.floor(r() * 5)}`,
  gateway: () => '10.40.1.1',
  mtu: (r) => pick(r, [1500, 9000]),
  initiators: (r) => [`iqn.2031-04.example.skarholt:${pick(r, names)}`],
  presents: (r) => `iqn.2031-04.example.skarholt:${pick(r, names)}`,
  interfaces: (r) => [
    { name: pick(r, ['eth0', 'hba0', 'eth1']), addresses: [`10.40.1.${11 + Math.floor(r() * 60)}/24`] },
  ],
  uplinks: (r) => pick(r, [['up1', 'up2 standby'], ['up1 standby']]),
  members: (r) => [`50:00:0a:66:d4:00:00:0${Math.floor(r() * 9)}`],
  portals: (r) => pick(r, [[`10.40.1.${11 + Math.floor(r() * 5)}:3260`], ['a4'], ['a4:3261 2', 'b4'], ['all']]),
  iqn: (r) => (chance(r, 0.7) ? '' : `iqn.2031-04.example.skarholt:${pick(r, names)}`),
  exceptions: (r) =>
    pick(r, [[], ['gate-1 read-only'], ['10.40.1.0/24 none'], ['gate-2 read-write mutual', '2001:db8::/32 none']]),
  sessionLimit: (r) => pick(r, ['none', 4, 2]),
  isid: (r) => pick(r, ['none', '800000000001', '0x80a1b2c30001']),
  rebuildBudget: (r) => pick(r, ['none', '100 MB/s', 'slow']),
  accountSecret: (r) => pick(r, ['none', 'sealed:00112233445566778899aabbccddeeff']),
  nqn: (r) => `nqn.2031-04.example.skarholt:${pick(r, names)}`,
  chapName: (r) => pick(r, names),
  account: (r) => pick(r, names),
  chapSecret: (r) => pick(r, ['none', 'sealed:00112233445566778899aabbccddeeff']),
  targetSecret: (r) => pick(r, ['none', 'sealed:00112233445566778899aabbccddeeff']),
  secret: (r) => pick(r, ['none', 'sealed:00112233445566778899aabbccddeeff']),
  queueDepth: (r) => pick(r, [16, 64]),
  keepAlive: (r) => pick(r, [0, 5000]),
  lossTime: (r) => pick(r, [0, 600_000]),
  reason: () => 'known',
  until: (r) => pick(r, ['2031-06-01', '2020-01-01', 'never']),
  check: (r) => pick(r, ['pool-exposure', 'drive-predicted']),
  subject: (r, view) =>
    pick(
      r,
      [...view.table('pool').values()].map((pool) => pool.name),
    ),
  every: (r) => pick(r, ['30 min', '4 h', 'day 04:00', 'SU 04:00', 'FREQ=MINUTELY;INTERVAL=90', 'now and then']),
  start: () => '2031-04-14T02:00:00',
  zone: (r) => pick(r, ['Europe/Oslo', 'UTC', 'Europe/Atlantis']),
  rpo: (r) => pick(r, ['30 min', '1 d', 'none', 'soon']),
  grace: (r) => pick(r, ['1 h', '2 d']),
  pattern: (r) => pick(r, ['{date}-{time}', '{plan}-{time}', '{nobody}']),
  keepUntil: (r) => pick(r, ['30 d', 'none', '2031-06-01']),
  hold: (r) => pick(r, ['audit', 'none']),
  workload: (r, view) =>
    pick(
      r,
      [...view.table('workload').values()].map((row) => row.name),
    ),
  ioSize: (r) => pick(r, ['8 KiB', '64 KiB', '1 B']),
  writes: (r) => pick(r, [0, 5, 400]),
  lockDays: (r) => pick(r, [0, 0, 0, 1]),
  drives: (r, view) => someDrives(r, view),
  spares: (r, view) => someDrives(r, view).slice(0, 1),
  zonePattern: (r) => pick(r, ['<host>_<array>', '<host>_<hostport>__<array>']),
  aliasPattern: (r) => pick(r, ['<host>_<hostport>', '<hostport>']),
};

/** Neighbouring drives of an array, mostly free ones. */
function someDrives(random: Random, view: EstateView): string[] {
  const array = pick(random, [...view.table('array').values()]);
  const all = array ? view.table('drive').by('array', array.id) : [];
  const list = chance(random, 0.8) ? all.filter((drive) => drive.raidGroup === null) : all;
  const from = Math.floor(random() * list.length);
  return list.slice(from, from + 1 + Math.floor(random() * 8)).map((drive) => driveRef(view, drive));
}

interface Bare {
  type: string;
  schema: z.ZodType;
  optional: boolean;
}

/** A field's schema without what makes it optional or reads it. */
function bare(schema: z.ZodType): Bare {
  let optional = false;
  let found = schema;
  for (;;) {
    if (found instanceof z.ZodOptional || found instanceof z.ZodDefault) {
      optional = true;
      found = found.unwrap() as z.ZodType;
    } else if (found instanceof z.ZodPipe) found = found.in as z.ZodType;
    else return { type: found.type, schema: found, optional };
  }
}

function valueFor(
  random: Random,
  view: EstateView,
  field: string,
  { type, schema }: Bare,
  foretold: FieldForetold | undefined,
  draft: Draft,
): unknown {
  const fit = foretold?.choices?.filter((choice) => choice.unfit === undefined) ?? [];
  const choices = (chance(random, 0.9) && fit.length > 0 ? fit : (foretold?.choices ?? [])).map((one) => one.value);
  if (type === 'array') {
    if (choices.length > 0 && field !== 'drives')
      return Array.from({ length: 1 + Math.floor(random() * 2) }, () => pick(random, choices));
    if (Array.isArray(foretold?.suggested) && chance(random, 0.7)) return foretold.suggested;
    return byName[field]?.(random, view, draft) ?? [];
  }
  if (choices.length > 0 && chance(random, 0.95)) return pick(random, choices);
  if (typeof foretold?.suggested === 'string' && chance(random, 0.5))
    return type === 'boolean' ? foretold.suggested === 'true' : foretold.suggested;
  if (schema instanceof z.ZodEnum) return pick(random, schema.options as string[]);
  if (byName[field]) return byName[field](random, view, draft);
  if (type === 'boolean' || type === 'union') return chance(random, 0.5);
  if (type === 'number') return Math.floor(random() * 4);
  return pick(random, names);
}

export const askables: readonly (OperationType | RecipeType)[] = [...operationTypes, ...recipeTypes];

/**
 * An operation of the registry with parameters drawn from what it foretells on the estate as it stands: most make sense, some do not. The same
 * numbers give the same operation.
 */
export function randomOperation(
  view: EstateView,
  basis: PlanBasis,
  random: Random,
  type: OperationType | RecipeType = pick(random, askables)!,
): OperationDocument {
  const draft: Draft = {};
  const context = contextFor(basis, 0, 0);
  for (const [field, schema] of Object.entries((type.schema as z.ZodObject).shape)) {
    const found = bare(schema as z.ZodType);
    const needed = field === 'host' || field === 'confirm';
    if (found.optional && !needed && chance(random, 0.6)) continue;
    if (field === 'cluster' && draft.host !== undefined && chance(random, 0.8)) continue;
    const foretold = type.foretell(view, draft, context).fields[field];
    const value = valueFor(random, view, field, found, foretold, draft);
    if (value !== undefined) draft[field] = value;
  }
  return { do: type.kind, ...draft };
}
