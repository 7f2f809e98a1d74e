import type { LoadLimit, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { hostOf, volumeOf } from '../estate/relations';
import { deviceShares } from '../attach/selector';
import { floorsLack } from '../performance/floors';
import { limitedTo, limitedVolumes } from '../performance/limits';
import { QUARTER_HOUR, standsAtLast } from '../performance/looks';
import { figuresOfRow, mergedRows, type LoadRow } from '../performance/row';
import { weekOf } from '../performance/room';
import type { LoadModel } from '../performance/shape';
import { someOf } from '../units/counted';
import { dateText } from '../units/date';
import { DAY } from '../units/duration';
import { formatCount, formatWait } from '../units/figures';
import { arrayName } from './each';
import { offer, type Check, type CheckContext, type Found } from './finding';

const IDLE_DAYS = 60;
/** Share of a device's I/O on one path from which on the others are idle. */
const ONE_PATH = 0.7;
const NO_HEADROOM = 0.9;
const HOT = 0.6;
/** Greatest of five seconds over the mean, from which on a burst hides. */
const HIDDEN = 10;
const FEWEST_WAITING = 32;
const UNSERVED = 0.01;
/** Hours of a day at its limit from which on a volume is held back always: a fifth. */
const HELD_HOURS = 4.8;
const WITHOUT_USE = 10;

const ofVolume = (view: EstateView, volume: Volume) =>
  ({ kind: 'volume', id: volume.id, name: `${arrayName(view, volume)} ${volume.name}` }) as const;
const ofLimit = (view: EstateView, limit: LoadLimit) =>
  ({ kind: 'loadLimit', id: limit.id, name: `${arrayName(view, limit)} ${limit.name}` }) as const;
const percent = (share: number): string => `${Math.ceil(share * 100)} %`;

/** Volumes that were measured in the last day, with their hours. */
function* measured(
  view: EstateView,
  context: CheckContext,
): Generator<{ volume: Volume; hours: readonly LoadRow[]; day: LoadRow }> {
  for (const [id, hours] of context.load().hours) {
    const volume = view.table('volume').get(id);
    if (volume && volume.deletedAt === null) yield { volume, hours, day: mergedRows(hours) };
  }
}

/** The volume of an array that asks most of these resources on the mean of its week; null where all that is asked is of others. */
function busiest({ volumes }: LoadModel, array: string, resources: readonly number[]): string | null {
  const asks = ({ reads, writes, uses }: LoadModel['volumes'][number]) =>
    uses.reduce(
      (sum, { resource, read, write }) => (resources.includes(resource) ? sum + reads * read + writes * write : sum),
      0,
    );
  const own = volumes.filter((one) => one.array === array).sort((a, b) => asks(b) - asks(a) || (a.id < b.id ? -1 : 1));
  return own[0]?.name ?? null;
}

export const loadChecks: readonly Check[] = [
  {
    id: 'volume-idle',
    severity: 'note',
    title: 'Volumes nobody uses',
    *find(view, context) {
      const { asked } = context.load();
      for (const volume of view.table('volume').values()) {
        yield null;
        const since = volume.writtenAt ?? volume.createdAt;
        const { activity } = volume;
        if (volume.deletedAt !== null || view.table('mapping').countBy('volume', volume.id) === 0) continue;
        if (context.now - since < IDLE_DAYS * DAY || asked.has(volume.id)) continue;
        if (activity && activity.reads + activity.writes > 0) continue;
        const [mapping] = view.table('mapping').by('volume', volume.id);
        yield {
          subject: ofVolume(view, volume),
          says: `${volume.name} is unused since ${dateText(since)}, though hosts see it.`,
          advice: 'Archive it, or hide it from its hosts.',
          mend: offer('Hide it', 'mapping.delete', {
            host: hostOf(view, mapping!).name,
            array: arrayName(view, volume),
            volumes: [volume.name],
          }),
        };
      }
    },
  },
  {
    id: 'path-unbalanced',
    severity: 'note',
    title: 'Hosts that use one path of several',
    *find(view, context) {
      const { finder } = context.attach();
      const hosts = new Map<string, { volumes: string[]; id: string }>();
      for (const device of view.table('hostDevice').values()) {
        yield null;
        if (device.state !== 'online') continue;
        const { found } = finder.of(device);
        const shares = deviceShares(found, hostOf(view, device), device);
        const used = shares.findIndex((share) => share > ONE_PATH);
        if (used < 0 || !found.some((path, k) => k !== used && path.state === found[used]!.state)) continue;
        const host = hostOf(view, device);
        const known = hosts.get(host.id) ?? { volumes: [], id: host.id };
        known.volumes.push(volumeOf(view, device).name);
        hosts.set(host.id, known);
      }
      for (const { id, volumes } of hosts.values()) {
        const host = view.table('host').get(id)!;
        yield {
          subject: { kind: 'host', id, name: host.name },
          says: `${host.name} uses one path for ${someOf(volumes)}, while others as good stand idle.`,
          advice: 'Let it spread I/O over its paths.',
          mend: offer('Spread it', 'host.configure', { host: host.name, selector: 'round-robin' }),
        };
      }
    },
  },
  {
    id: 'controller-no-headroom',
    severity: 'warning',
    title: 'Controllers that could not carry their partner',
    *find(view, context) {
      const { model } = context.load();
      if (model.volumes.length === 0) return;
      const weeks = weekOf(model);
      for (const array of view.table('array').values()) {
        yield null;
        const controllers = model.resources.flatMap((one, r) =>
          one.kind === 'controller' && one.array === array.id ? [r] : [],
        );
        if (controllers.length < 2) continue;
        // What one leaves the others carry.
        let worst = 0;
        for (let hour = 0; hour < 168; hour++)
          worst = Math.max(worst, controllers.reduce((sum, r) => sum + weeks[r]![hour]!, 0) / (controllers.length - 1));
        if (worst <= NO_HEADROOM) continue;
        const most = busiest(model, array.id, controllers);
        yield {
          subject: { kind: 'array', id: array.id, name: array.name },
          says: `One controller cannot carry ${array.name} alone: at the busiest hour it would need ${percent(worst)}.`,
          advice: 'Move load to another array, or limit it.',
          mend: most === null ? null : offer(`Move ${most}`, 'volume.move', { array: array.name, volumes: [most] }),
        };
      }
    },
  },
  {
    id: 'media-hot',
    severity: 'warning',
    title: 'Drives that are too busy',
    *find(view, context) {
      const { hours, model } = context.load();
      for (const { id, kind, capacity } of model.resources) {
        if (kind !== 'group') continue;
        const most = Math.max(0, ...(hours.get(id) ?? []).map((row) => figuresOfRow(row).used / capacity));
        const group = view.table('raidGroup').get(id);
        if (most <= HOT || !group?.pool) continue;
        const pool = view.table('pool').get(group.pool)!;
        yield {
          subject: { kind: 'raidGroup', id, name: `${arrayName(view, group)} ${group.name}` },
          says: `Drives of ${pool.name} (${group.name}) were busy ${percent(most)} for an hour.`,
          advice: 'Spread the pool over more drives, or move a volume.',
          mend: offer('Spread it over more drives', 'pool.extend', { array: arrayName(view, group), name: pool.name }),
        };
      }
    },
  },
  {
    id: 'micro-burst',
    severity: 'note',
    title: 'Bursts that hide in averages',
    *find(view, context) {
      const { model, hours } = context.load();
      for (const { volume, day } of measured(view, context)) {
        const { iops, latencyS } = figuresOfRow(day);
        if (latencyS === null || day.held > 0) continue;
        const waiting = iops * latencyS;
        if (day.mostQueue <= HIDDEN * waiting || day.mostQueue < FEWEST_WAITING) continue;
        const own = model.volumes.find(({ id }) => id === volume.id);
        const busy = Math.max(
          0,
          ...(own?.uses ?? []).map(({ resource }) => {
            const { id, capacity } = model.resources[resource]!;
            const rows = hours.get(id);
            return rows ? figuresOfRow(mergedRows(rows)).used / capacity : 0;
          }),
        );
        if (busy >= 0.7) continue;
        yield {
          subject: ofVolume(view, volume),
          says: `${volume.name} bursts hide in averages: ${formatCount(day.mostQueue)} operations stood in line in five seconds, ${formatCount(waiting)} on the mean.`,
          advice: 'Look at it closely; a limit with a burst to spend lets it through in good order.',
          mend: offer('Limit it, with a burst', 'limit.create', {
            array: arrayName(view, volume),
            name: `${volume.name}-limit`,
            volumes: [volume.name],
            iops: Math.ceil(2 * iops),
            burst: Math.ceil(day.mostQueue),
          }),
        };
      }
    },
  },
  {
    id: 'noisy-neighbour',
    severity: 'warning',
    title: 'Neighbours that keep others waiting',
    *find(view, context) {
      for (const { x, y, addedS, share, proposed } of context.load().disturbed) {
        const [noisy, victim] = [view.table('volume').get(x), view.table('volume').get(y)];
        if (!noisy || !victim || share <= 0.5) continue;
        const found: Found = {
          subject: ofVolume(view, victim),
          says: `${noisy.name} added ${formatWait(addedS)} to ${victim.name} at its worst, ${percent(share)} of what others add.`,
          advice:
            proposed === null
              ? `No limit on ${noisy.name} cures it; look elsewhere.`
              : `Limit ${noisy.name} to ${formatCount(proposed)} I/O/s.`,
          mend:
            proposed === null
              ? null
              : offer(`Limit ${noisy.name}`, 'limit.create', {
                  array: arrayName(view, noisy),
                  name: `${noisy.name}-limit`,
                  volumes: [noisy.name],
                  iops: proposed,
                }),
        };
        yield found;
      }
    },
  },
  {
    id: 'demand-unserved',
    severity: 'warning',
    title: 'Demand that is not served',
    *find(view, context) {
      for (const [id, looks] of context.load().looks) {
        yield null;
        const volume = view.table('volume').get(id);
        if (!volume || volume.deletedAt !== null) continue;
        const short = looks.map(({ iops, unserved, limited }) => !limited && unserved > UNSERVED * (iops + unserved));
        if (!standsAtLast(short, QUARTER_HOUR)) continue;
        const worst = Math.max(...looks.map(({ unserved }, k) => (short[k] ? unserved : 0)));
        yield {
          subject: ofVolume(view, volume),
          says: `Up to ${formatCount(worst)} I/O/s of ${volume.name} are not served, for a quarter of an hour and more.`,
          advice: 'Move it, or extend what it rests on.',
          mend: offer('Move it', 'volume.move', { array: arrayName(view, volume), volumes: [volume.name] }),
        };
      }
    },
  },
  {
    id: 'qos-always-limited',
    severity: 'warning',
    title: 'Volumes that are always at their limit',
    *find(view, context) {
      for (const { volume, hours } of measured(view, context)) {
        const held = hours.filter((row) => row.served > 0 && row.held > 0.5 * row.served).length;
        if (held <= HELD_HOURS) continue;
        const limit = view
          .table('loadLimit')
          .by('array', volume.array)
          .find((one) => limitedVolumes(view, one).has(volume.id));
        if (!limit) continue;
        const peak = context.load().peaks.get(volume.id) ?? 0;
        yield {
          subject: ofVolume(view, volume),
          says: `${volume.name} is held back ${held} h a day by ${limit.name}.`,
          advice: 'Raise the limit, or take it off.',
          mend: offer('Raise it', 'limit.configure', {
            array: arrayName(view, limit),
            limit: limit.name,
            iops: Math.ceil(2 * Math.max(peak, limit.iops ?? 0)),
          }),
        };
      }
    },
  },
  {
    id: 'qos-floors-too-many',
    severity: 'error',
    title: 'Promises that cannot be kept',
    *find(view) {
      for (const array of view.table('array').values()) {
        yield null;
        const lack = floorsLack(view, array.id);
        if (!lack) continue;
        const [limit] = [...view.table('loadLimit').by('array', array.id)]
          .filter(({ floor }) => floor !== null)
          .sort((a, b) => b.floor! - a.floor!);
        yield {
          subject: { kind: 'array', id: array.id, name: array.name },
          says: `What is promised on ${array.name} needs ${percent(lack.share)} of what ${lack.resource} may promise${lack.state === 'as it stands' ? '' : ` with ${lack.state}`}.`,
          advice: 'Promise less, or move a volume.',
          mend: limit
            ? offer('Promise less', 'limit.configure', {
                array: array.name,
                limit: limit.name,
                floor: Math.max(1, Math.floor(limit.floor! / lack.share)),
              })
            : null,
        };
      }
    },
  },
  {
    id: 'qos-limit-without-use',
    severity: 'note',
    title: 'Limits without effect',
    *find(view, context) {
      const { peaks } = context.load();
      for (const limit of view.table('loadLimit').values()) {
        yield null;
        const rates = [...limitedVolumes(view, limit)].flatMap((id) => {
          const volume = view.table('volume').get(id)!;
          const peak = peaks.get(id);
          const to = limitedTo(limit, { size: volume.size, ioBytes: volume.activity?.ioBytes ?? 8192 });
          return peak === undefined || to === null ? [] : [{ peak, to, name: volume.name }];
        });
        if (rates.length === 0 || rates.some(({ peak, to }) => to <= WITHOUT_USE * peak)) continue;
        const peak = Math.max(...rates.map((one) => one.peak));
        yield {
          subject: ofLimit(view, limit),
          says: `Limit ${limit.name} has no effect: ${someOf(rates.map(({ name }) => name))} never asked for a tenth of it in 30 days.`,
          advice: 'Lower it to what should be the most, or drop it.',
          mend: offer('Lower it', 'limit.configure', {
            array: arrayName(view, limit),
            limit: limit.name,
            iops: Math.max(1, Math.ceil(2 * peak)),
          }),
        };
      }
    },
  },
];
