import type { ArrayRow, Drive, Enclosure, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { enclosureOf, poolOf, siteOf } from '../estate/relations';
import type { PathFinder } from '../attach/paths';
import { shortWwn } from '../naming/wwn';
import { formatAddress } from '../network/address';
import { byName } from '../operation/draft';
import { poolState, poolUsage, type Availability } from '../pool/usage';
import { levelText, shapeOfGroup, sketchOf } from '../raid/geometry';
import { groupHealth, lunSilence } from '../raid/health';
import { unfit } from '../raid/members';
import { mediaFigures } from '../raid/media';
import { formatDecimalBytes } from '../units/bytes';
import type { InParts } from '../units/in-parts';
import { volumeHealth } from '../volume/health';
import type { Post, SpanArray, SpanEnclosure, SpanGroup, SpanHead, SpanPool, SpanVolume } from './drawn';
import { networksByAddress, networksOfPort, protocolTags } from './networks';
import { groupPosts, postOf } from './posts';

/** Rows that are worked out in one go. */
const PART = 50;

/** What its level line says. */
export function storeyHead(view: EstateView, array: ArrayRow): SpanHead {
  const controllers = [...view.table('controller').by('array', array.id)].sort(byName);
  const down = controllersDown(view, array.id).length;
  const drives = view.table('drive').by('array', array.id);
  return {
    id: array.id,
    name: array.name,
    site: siteOf(view, array).name,
    model: array.model,
    post: postOf(down > 0 && down === controllers.length, down > 0),
    controllers: controllers.map((controller) => ({
      id: controller.id,
      name: controller.name,
      up: controller.state === 'up',
    })),
    drives: drives.length,
    raw: drives.reduce((sum, drive) => sum + drive.capacity, 0),
    outside: array.outside,
  };
}

const controllersDown = (view: EstateView, array: string): string[] =>
  view
    .table('controller')
    .by('array', array)
    .flatMap(({ id, state }) => (state === 'down' ? [id] : []));

/** Volumes of an array that are not retired, by name. */
const inUse = (view: EstateView, array: string) =>
  view
    .table('volume')
    .by('array', array)
    .filter((volume) => volume.deletedAt === null)
    .sort(byName);

/** How many sessions end at each port of an array, of hosts that have something mapped from it. */
function* loginsOf(view: EstateView, finder: PathFinder, array: string): InParts<Map<string, number>> {
  const hosts = new Set<string>();
  for (const volume of view.table('volume').by('array', array))
    for (const mapping of view.table('mapping').by('volume', volume.id)) hosts.add(mapping.host);
  const logins = new Map<string, number>();
  let asked = 0;
  for (const host of hosts) {
    for (const session of finder.sessions(host, array).up)
      logins.set(session.port, (logins.get(session.port) ?? 0) + 1);
    if (++asked % PART === 0) yield;
  }
  return logins;
}

/** One array with all that stands on it. */
export function* storey(view: EstateView, finder: PathFinder, array: ArrayRow): InParts<SpanArray> {
  const networksOf = networksByAddress(view);
  const logins = yield* loginsOf(view, finder, array.id);
  const stateOf = volumeHealth(view);
  // Nobody looks into an outside array: only what it shows is drawn.
  const inside = array.outside ? '' : array.id;
  const groups = [...view.table('raidGroup').by('array', inside)].sort(byName);
  const groupNames = new Map(groups.map((group) => [group.id, group.name]));
  const down = new Set(controllersDown(view, array.id));

  const enclosures = [...view.table('enclosure').by('array', inside)]
    .sort((a, b) => a.number - b.number)
    .map((enclosure): SpanEnclosure => {
      const own = [...view.table('drive').by('enclosure', enclosure.id)].sort((a, b) => a.slot - b.slot);
      const first = own[0];
      return {
        id: enclosure.id,
        number: enclosure.number,
        slots: enclosure.slots,
        flash: first ? mediaFigures[first.media].flash : false,
        label: enclosureLabel(view, enclosure, first),
        drives: own.map((drive) => ({
          id: drive.id,
          slot: drive.slot,
          group: drive.raidGroup,
          post: drivePost(view, drive),
          spare: drive.spare !== 'no',
          located: drive.located,
        })),
        brackets: brackets(own, groupNames),
        free: own.filter((drive) => !unfit(view, drive)).length,
      };
    });

  const volumes: SpanVolume[] = [];
  for (const volume of inUse(view, array.id)) {
    volumes.push(volumeModel(view, finder, volume, stateOf(volume)));
    if (volumes.length % PART === 0) yield;
  }

  return {
    ...storeyHead(view, array),
    enclosures,
    groups: groups.map((group): SpanGroup => {
      const health = groupHealth(view, group);
      const job = view.table('job').by('raidGroup', group.id)[0];
      const shape = shapeOfGroup(group);
      const sketch = sketchOf(shape);
      return {
        id: group.id,
        name: group.name,
        level: group.level,
        label: levelText(shape),
        data: sketch.data,
        redundancy: sketch.parity,
        mirror: sketch.mirror,
        usable: group.usable,
        post: groupPosts[health.state],
        pool: group.pool,
        enclosures: [...new Set(group.drives.flatMap((id) => view.table('drive').get(id)?.enclosure ?? []))],
        job: job && !job.paused ? { kind: job.kind, startedAt: job.startedAt, finishesAt: job.finishesAt } : null,
      };
    }),
    pools: [...view.table('pool').by('array', inside)].sort(byName).map((pool): SpanPool => {
      const usage = poolUsage(view, pool);
      const state = poolState(view, pool.id);
      return {
        id: pool.id,
        name: pool.name,
        post: postOf(state === 'lost', state === 'degraded' || (usage.available === 0 && !pool.direct)),
        direct: pool.direct,
        size: usage.size,
        used: usage.usedBytes,
        promised: usage.promised,
        available: usage.availableBytes,
        filled: usage.capacity === 0 ? 0 : usage.used / usage.capacity,
        subscribed: usage.size === 0 ? 0 : usage.promised / usage.size,
      };
    }),
    volumes,
    ports: [...view.table('port').by('array', array.id)].sort(byName).map((port) => ({
      id: port.id,
      name: port.name,
      tag: protocolTags[port.role],
      speed: port.speed,
      address: port.kind === 'fc' ? shortWwn(port.wwpn ?? '') : port.addresses.map(formatAddress).join(', '),
      post: port.state === 'down' || down.has(port.controller) ? 'broken' : 'stands',
      logins: logins.get(port.id) ?? 0,
      networks: networksOfPort(view, port, networksOf),
    })),
  };
}

function volumeModel(view: EstateView, finder: PathFinder, volume: Volume, state: Availability): SpanVolume {
  const paths = { usable: 0, expected: 0 };
  const mappings = view.table('mapping').by('volume', volume.id);
  for (const mapping of mappings) {
    const count = finder.count(mapping);
    paths.usable += count.usable;
    paths.expected += count.expected;
  }
  const extentSize = poolOf(view, volume).extentSize;
  const short = mappings.length > 0 && (paths.usable < paths.expected || paths.usable === 0);
  return {
    id: volume.id,
    name: volume.name,
    pool: volume.pool,
    size: volume.size,
    held: view.occupancy.allocated(volume.id) * extentSize,
    written: volume.written,
    thin: volume.provisioning === 'thin',
    post: postOf(state === 'lost' || (mappings.length > 0 && paths.usable === 0), state === 'degraded' || short),
    hosts: new Set(mappings.map((mapping) => mapping.host)).size,
    paths,
  };
}

/** What stands in an enclosure; in one for an outside array its LUNs, of whatever size. */
function enclosureLabel(view: EstateView, enclosure: Enclosure, first: Drive | undefined): string {
  if (enclosure.outside !== null) return `LUNs of ${view.table('array').get(enclosure.outside)!.name}`;
  return first ? `${formatDecimalBytes(first.capacity)} ${mediaFigures[first.media].label}` : 'empty';
}

/** How a drive stands: one that expects to fail leans, one whose enclosure does not answer is broken with it. */
export function drivePost(view: EstateView, drive: Drive): Post {
  if (drive.state === 'missing') return 'absent';
  if (drive.state === 'failed' || enclosureOf(view, drive).state === 'down') return 'broken';
  if (drive.lun !== null && lunSilence(view, drive.array, drive.lun) !== null) return 'broken';
  if (drive.state === 'rebuilding') return 'in work';
  return drive.state === 'predicted' ? 'leans' : 'stands';
}

/** Runs of neighbouring slots that belong to one group. */
function brackets(
  drives: readonly { slot: number; raidGroup: string | null }[],
  names: Map<string, string>,
): SpanEnclosure['brackets'] {
  const found: SpanEnclosure['brackets'] = [];
  for (const { slot, raidGroup } of drives) {
    if (!raidGroup) continue;
    const last = found.at(-1);
    if (last && last.group === raidGroup && last.to === slot - 1) last.to = slot;
    else found.push({ group: raidGroup, name: names.get(raidGroup) ?? '', from: slot, to: slot });
  }
  return found;
}
