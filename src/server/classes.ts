import { ownPools } from '@/core/estate/own';
import { z } from 'zod';
import { readRule, ruleText } from '@/core/classes/rule-text';
import type { RequestRule } from '@/core/classes/rules';
import type { Allotment, KeptRequest } from '@/core/estate/entities';
import type { EstateView } from '@/core/estate/estate';
import { arrayOf } from '@/core/estate/relations';
import { poolName, takenFrom, takenOf } from '@/core/pool/allotments';
import { byName } from '@/core/operation/draft';
import { lookUp } from '@/core/operation/inquiry';
import { classWords } from '@/core/service/class-operations';
import { declaredKeys } from '@/core/service/fact-operations';
import { headroomsOf } from '@/core/performance/pool-headroom';
import {
  contradictions,
  derivedKeys,
  judged,
  keyWords,
  poolFacts,
  volumeFacts,
  type Headrooms,
} from '@/core/service/facts';
import type { AllotmentRow, ClassesAnswer, RequestRow } from '@/core/service/answers';
import { consumerOf } from '@/core/service/consumer';
import { machinesOf, type ConsumerPage } from '@/core/machine/view';
import { placesFor, type PlaceAnswer } from '@/core/service/place';
import { requestWords, rulesOf } from '@/core/service/request-fields';
import { placesOf, placeSeveral, type SeveralAnswer } from '@/core/service/several';
import { keepings } from '@/core/kinds/kept-request';
import { dayOf } from '@/core/space/history';
import { exactBytes, parseBytes } from '@/core/units/bytes';
import { readDays } from '@/store/usage-rows';
import type { Plant } from './plant';
import { Problem } from './problem';

export const placeBody = z.object({
  size: z.union([z.string(), z.number()]).transform(String).describe('With its unit, such as 2 TiB'),
  iops: z.coerce.number().min(0).max(1e9).default(0),
  class: z.string().optional().describe('Its rules count beside those given'),
  rules: z.array(z.string()).max(40).default([]),
  replica: z.boolean().default(false),
  volumes: z.coerce.number().int().min(1).max(1000).default(1).describe('How many alike'),
  keeping: z.enum(keepings).default('spread').describe('How several go to pools'),
  hosts: z.array(z.string()).max(1000).default([]).describe('Who is to reach it, by name or id'),
});

/** Bytes a day by which each pool grew over what is on record of the last month. */
function growthOf(plant: Plant): Map<string, number> {
  const from = dayOf(plant.lab.now) - 30;
  return new Map(
    [...plant.estate.table('pool').values()].flatMap(({ id }): [string, number][] => {
      const days = readDays(plant.store.db, [id], from);
      const [first, last] = [days[0], days.at(-1)];
      return first && last && last.day > first.day ? [[id, (last.used - first.used) / (last.day - first.day)]] : [];
    }),
  );
}

/** Every class with who fits and who fell out, and every key that rules can ask for. */
export function classesOf(plant: Plant): ClassesAnswer {
  const { estate } = plant;
  const headroom = headroomsOf(plant.estate);
  const pools = ownPools(estate);
  const facts = new Map(pools.map((pool) => [pool.id, poolFacts(estate, pool, headroom)]));
  const own = declaredKeys(estate).filter((key) => !(derivedKeys as readonly string[]).includes(key));
  return {
    pools: pools.length,
    keys: [
      ...derivedKeys.map((key) => ({ key, ...keyWords[key], derived: true })),
      ...own.map((key) => ({ key, says: 'declared', unit: '', derived: false })),
    ],
    orders: [...estate.table('factOrder').values()].map(({ name, words }) => ({ key: name, words })),
    contradictions: pools.flatMap((pool) =>
      contradictions(estate, pool).map((one) => ({
        ...one,
        pool: pool.name,
        array: arrayOf(estate, pool).name,
      })),
    ),
    receivers: [
      ...[...estate.table('cluster').values()].sort(byName).map(({ id, name }) => ({
        name,
        cluster: true,
        hosts: [...estate.table('host').by('cluster', id)].sort(byName).map((host) => host.name),
      })),
      ...[...estate.table('host').values()].sort(byName).map(({ name }) => ({ name, cluster: false, hosts: [name] })),
    ],
    requests: [...estate.table('keptRequest').values()].sort(byName).map((row) => requestRow(estate, row, headroom)),
    allotments: [...estate.table('allotment').values()].sort(byName).map((row) => allotmentRow(estate, row)),
    classes: [...estate.table('serviceClass').values()].sort(byName).map((row) => {
      const volumes = estate
        .table('classUse')
        .by('serviceClass', row.id)
        .flatMap(({ volume, since }) => {
          const found = estate.table('volume').get(volume);
          return found && found.deletedAt === null ? [{ volume: found, since }] : [];
        });
      return {
        id: row.id,
        name: row.name,
        rules: row.rules.map(ruleText),
        goalMs: row.goalMs,
        says: classWords(row),
        notes: row.notes,
        fits: pools.filter((pool) =>
          judged(estate, row.rules, facts.get(pool.id)!).every(({ outcome }) => outcome === 'pass'),
        ).length,
        volumes: volumes.map(({ volume }) => volume.name),
        left: volumes.flatMap(({ volume }) => {
          const lacks = judged(estate, row.rules, volumeFacts(estate, volume, facts.get(volume.pool))).filter(
            ({ outcome }) => outcome !== 'pass',
          );
          return lacks[0]
            ? [{ volume: volume.name, array: arrayOf(estate, volume).name, rule: ruleText(lacks[0].rule) }]
            : [];
        }),
      };
    }),
  };
}

function requestRow(estate: EstateView, row: KeptRequest, headroom: Headrooms): RequestRow {
  const { placed, says } = placesOf(estate, { ...row, rules: rulesOf(estate, row) }, headroom);
  return {
    id: row.id,
    name: row.name,
    says: requestWords(estate, row),
    size: exactBytes(row.bytes),
    volumes: row.volumes,
    iops: row.iops,
    keeping: row.keeping,
    class: row.serviceClass && estate.table('serviceClass').get(row.serviceClass)!.name,
    rules: row.rules.map(ruleText),
    replica: row.replica,
    notes: row.notes,
    fits: placed.reduce((sum, { volumes }) => sum + volumes, 0),
    places: says,
  };
}

function allotmentRow(estate: EstateView, row: Allotment): AllotmentRow {
  const taken = takenOf(estate, row.id);
  const ids = [...new Set([...Object.keys(taken.pools), ...row.pools])];
  return {
    id: row.id,
    name: row.name,
    contact: row.contact,
    bytes: row.bytes,
    takenBytes: taken.bytes,
    mostVolumes: row.volumes,
    classes: row.classes.map((id) => estate.table('serviceClass').get(id)!.name),
    pools: ids.map((id) => {
      const at = row.pools.indexOf(id);
      return { name: poolName(estate, id), bytes: taken.pools[id] ?? 0, most: at < 0 ? null : row.poolBytes[at]! };
    }),
    volumes: takenFrom(estate, row.id)
      .sort(byName)
      .map((volume) => ({
        name: volume.name,
        array: arrayOf(estate, volume).name,
        pool: estate.table('pool').get(volume.pool)!.name,
        bytes: volume.size,
      })),
    notes: row.notes,
  };
}

/** The page of one consumer. */
export function consumerPage({ estate }: Plant, id: string): ConsumerPage {
  const row = estate.table('allotment').get(id);
  if (!row) throw new Problem(404, 'allotment-unknown', `There is no allotment ${id}.`, 'Choose one that there is.');
  return { ...consumerOf(estate, row), machines: machinesOf(estate, id) };
}

/** Where something fits best, and why the others do not fit. */
export function placeOf(
  plant: Plant,
  asked: z.output<typeof placeBody>,
): PlaceAnswer & { several: SeveralAnswer | null } {
  const size = parseBytes(asked.size);
  if (!size.ok) throw new Problem(400, size.reason, size.message, 'Write a size with its unit, such as 2 TiB.');
  const rules: RequestRule[] = [];
  if (asked.class) {
    const row = [...plant.estate.table('serviceClass').values()].find(
      ({ id, name }) => id === asked.class || name.toLowerCase() === asked.class!.toLowerCase(),
    );
    if (!row)
      throw new Problem(404, 'class-unknown', `There is no service class ${asked.class}.`, 'Choose one that there is.');
    rules.push(...row.rules);
  }
  for (const line of asked.rules) {
    if (line.trim() === '') continue;
    const rule = readRule(line);
    if (!rule.ok) throw new Problem(400, rule.reason, `${line}: ${rule.message}`, 'Correct the rule.');
    rules.push(rule.value);
  }
  const hosts = asked.hosts.map((ref) => {
    const host = lookUp(plant.estate, 'host', ref);
    if (!host) throw new Problem(404, 'host-unknown', `There is no host ${ref}.`, 'Choose one that there is.');
    return host;
  });
  const headroom = headroomsOf(plant.estate);
  const { iops, replica, volumes, keeping } = asked;
  const each = { bytes: size.value, iops, rules, replica, hosts };
  // Together they ask one pool for all of it; else each pool is asked for one of them.
  const many = keeping === 'together' ? volumes : 1;
  return {
    ...placesFor(
      plant.estate,
      { ...each, bytes: each.bytes * many, iops: each.iops * many },
      headroom,
      growthOf(plant),
    ),
    several: volumes > 1 ? placeSeveral(plant.estate, { ...each, volumes, keeping }, headroom) : null,
  };
}
