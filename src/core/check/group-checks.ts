import { ownArrays } from '../estate/own';
import type { Drive, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { enclosureOf, poolOf, raidGroupOf } from '../estate/relations';
import { fullStripe } from '../pool/create';
import { spareFigures } from '../drive/assign-spare';
import { driveRef } from '../operation/inquiry';
import { LOSS_TARGET, MAX_CHUNK, MIN_CHUNK, SCRUB_DAYS, WIDE, WIDE_SINGLE } from '../raid/choices';
import { lossesOf, shapeOfGroup, usableOfDrive } from '../raid/geometry';
import { groupHealth } from '../raid/health';
import { mediaFigures } from '../raid/media';
import { fatalEnclosure } from '../raid/members';
import { spareUnfit } from '../raid/rebuild';
import { groupRisk } from '../raid/risk';
import { needOf, spareFor } from '../raid/tend';
import { imbalanceOf } from '../raid/distributed';
import { exactBytes, formatBytes } from '../units/bytes';
import { someOf } from '../units/counted';
import { DAY } from '../units/duration';
import { formatChance } from '../units/figures';
import { membersOf } from './drive-checks';
import { arrayName, each } from './each';
import { offer, type Check } from './finding';

/** A read error in a rebuild more likely than this calls for two parities. */
const READ_ERROR_LIMIT = 0.05;
const SLOW_REBUILD_HOURS = 24;
const IMBALANCE_LIMIT = 0.15;

const params = (view: EstateView, group: RaidGroup) => ({ array: arrayName(view, group), name: group.name });

const eachGroup = each('raidGroup', (_view, group) => group.name);

const redundant = (group: RaidGroup): boolean => group.copies > 1 || group.parity > 0;

export const groupChecks: Check[] = [
  eachGroup('group-degraded', 'error', 'Degraded groups', (view, group) => {
    const { state, failed, tolerates } = groupHealth(view, group);
    if (state !== 'degraded') return null;
    const rebuilding = view
      .table('job')
      .by('raidGroup', group.id)
      .some((job) => job.kind === 'raid-rebuild');
    return {
      says: `${group.name} is degraded: ${failed.length} of its drives ${failed.length === 1 ? 'is' : 'are'} not whole, ${tolerates} more may fail.`,
      advice: rebuilding
        ? 'It rebuilds. A higher priority makes it whole sooner.'
        : 'Give it a spare, or replace the drive.',
      mend: rebuilding
        ? offer('Raise its priority', 'raid-group.configure', { ...params(view, group), priority: 'high' })
        : offer('Replace the drive', 'drive.replace', {
            array: arrayName(view, group),
            drives: failed.map((drive) => driveRef(view, drive)),
          }),
    };
  }),
  eachGroup('group-no-redundancy', 'error', 'No failure may follow', (view, group) => {
    const { state, tolerates } = groupHealth(view, group);
    return state === 'degraded' && tolerates === 0
      ? {
          says: `The next failure in ${group.name} loses data.`,
          advice: 'Rebuild it with high priority.',
          mend: offer('Rebuild with high priority', 'raid-group.configure', {
            ...params(view, group),
            priority: 'high',
          }),
        }
      : null;
  }),
  eachGroup('group-lost', 'error', 'Lost groups', (view, group) => {
    const { state, failed } = groupHealth(view, group);
    return state === 'lost'
      ? {
          says: `${group.name} is lost: ${failed.length} of its drives cannot be read.`,
          advice: 'Bring back the enclosure or the drives, else restore from a copy.',
          mend: null,
        }
      : null;
  }),
  eachGroup('group-level-zero', 'warning', 'Groups that survive nothing', (view, group) => {
    const pool = poolOf(view, group);
    if (group.level !== 'raid0' || (group.declared ?? 0) > 0 || !pool) return null;
    const volumes = view.table('volume').by('pool', pool.id);
    if (volumes.length === 0) return null;
    const array = arrayName(view, group);
    const names = volumes.map(({ name }) => name);
    return pool.direct
      ? {
          says: `${group.name} survives no failure, and ${someOf(names)} ${names.length === 1 ? 'lies' : 'lie'} straight on it.`,
          advice: 'Move what lies there into a pool.',
          mend: offer('Move it into a pool', 'volume.move', { array, volumes: names }),
        }
      : {
          says: `${group.name} survives no failure, and pool ${pool.name} rests on it.`,
          advice: 'Take it out of the pool and carve it under another level.',
          mend: offer('Take it out of the pool', 'pool.remove-group', {
            array,
            name: pool.name,
            raidGroup: group.name,
          }),
        };
  }),
  eachGroup('group-too-wide', 'warning', 'Wide stripes', (view, group) => {
    const { shape, readError } = groupRisk(view, group);
    if (shape.parity === 0 || shape.width <= (shape.parity === 1 ? WIDE_SINGLE : WIDE)) return null;
    return {
      says: `${group.name}: ${shape.width} drives in a stripe; a rebuild meets a read error with ${Math.ceil(readError * 100)} %.`,
      advice: 'Carve more legs or more parity.',
      mend: offer('Carve another group', 'raid-group.create', { array: arrayName(view, group), level: 'raid60' }),
    };
  }),
  eachGroup('group-single-parity-large', 'warning', 'Single parity over large drives', (view, group) => {
    if (group.parity !== 1) return null;
    const { readError } = groupRisk(view, group);
    return readError >= READ_ERROR_LIMIT
      ? {
          says: `A rebuild of ${group.name} meets a read error with ${Math.ceil(readError * 100)} %.`,
          advice: 'Use two parities for drives of this size.',
          mend: offer('Carve with two parities', 'raid-group.create', {
            array: arrayName(view, group),
            level: 'raid6',
          }),
        }
      : null;
  }),
  eachGroup('group-loss-probability', 'warning', 'Chance of loss', (view, group) => {
    if (!redundant(group)) return null;
    const { loss } = groupRisk(view, group);
    return loss > LOSS_TARGET
      ? {
          says: `${group.name} loses data within a year with a chance of ${formatChance(loss)}.`,
          advice: 'A spare, a faster rebuild or a stronger level lowers it.',
          mend: spareFor(view, group, 0, Infinity)
            ? offer('Raise its priority', 'raid-group.configure', { ...params(view, group), priority: 'high' })
            : offer('Keep a spare', 'drive.assign-spare', { array: arrayName(view, group), raidGroup: group.name }),
        }
      : null;
  }),
  eachGroup('group-rebuild-slow', 'warning', 'Slow rebuilds', (view, group) => {
    if (!redundant(group)) return null;
    const { hours } = groupRisk(view, group);
    return hours > SLOW_REBUILD_HOURS
      ? {
          says: `A rebuild of ${group.name} takes ${Math.ceil(hours)} h at its present load and priority.`,
          advice: 'Raise its priority, or distribute parity over more drives.',
          mend: offer('Raise its priority', 'raid-group.configure', { ...params(view, group), priority: 'high' }),
        }
      : null;
  }),
  eachGroup('group-enclosure-spof', 'warning', 'One enclosure takes a group down', (view, group) => {
    const shape = shapeOfGroup(group);
    if (!redundant(group) || view.table('enclosure').countBy('array', group.array) < 2) return null;
    const found = fatalEnclosure(
      membersOf(view, group),
      lossesOf(shape),
      group.level === 'distributed' ? shape.drives : shape.width,
    );
    if (!found) return null;
    const alike = new Set(
      view
        .table('drive')
        .by('array', group.array)
        .filter((drive) => drive.media === membersOf(view, group)[0]?.media)
        .map((drive) => drive.enclosure),
    );
    // Where all drives of the kind stand in one enclosure, nobody could have spread them.
    return alike.size < 2
      ? null
      : {
          says: `Loss of enclosure ${enclosureOf(view, found).number} takes ${group.name} down: ${found.members} members of a leg stand in it.`,
          advice: 'Spread its members over enclosures.',
          mend: offer('Carve a spread group', 'raid-group.create', {
            array: arrayName(view, group),
            level: group.level,
          }),
        };
  }),
  eachGroup('group-strip-odd', 'error', 'Odd chunks', (_view, group) =>
    group.chunk < MIN_CHUNK || group.chunk > MAX_CHUNK || !Number.isInteger(Math.log2(group.chunk))
      ? {
          says: `A chunk of ${exactBytes(group.chunk)} in ${group.name} is not usable.`,
          advice: 'Carve it anew with 64 to 256 KiB.',
          mend: null,
        }
      : null,
  ),
  eachGroup('group-stripe-not-in-extent', 'note', 'Extents straddle stripes', (view, group) => {
    const pool = poolOf(view, group);
    return pool && pool.extentSize % fullStripe(group) !== 0
      ? {
          says: `Extents of ${pool.name} straddle the stripes of ${group.name}, which are ${exactBytes(fullStripe(group))}.`,
          advice: 'A power of two of data drives avoids that.',
          mend: null,
        }
      : null;
  }),
  eachGroup('group-scrub-overdue', 'warning', 'Scrubs overdue', (view, group, { now }) => {
    const days = Math.floor((now - group.scrubbedAt) / DAY);
    if (days <= SCRUB_DAYS || !redundant(group)) return null;
    if (
      view
        .table('job')
        .by('raidGroup', group.id)
        .some((job) => job.kind === 'raid-scrub')
    )
      return null;
    return {
      says: `${group.name} was not scrubbed for ${days} days.`,
      advice: 'Start a scrub; it reads every strip with low priority.',
      mend: offer('Scrub it', 'raid-group.scrub', params(view, group)),
    };
  }),
  eachGroup('declustered-imbalance', 'warning', 'Uneven distributed layout', (_view, group) => {
    const found = imbalanceOf(shapeOfGroup(group), group.seed);
    return found > IMBALANCE_LIMIT
      ? {
          says: `${group.name}: in a rebuild the busiest survivor reads ${Math.ceil(found * 100)} % above the mean.`,
          advice: 'Another number of drives or narrower stripes balance better.',
          mend: null,
        }
      : null;
  }),
  eachGroup('spare-none', 'warning', 'Groups without a spare', (view, group) => {
    if (!redundant(group) || group.level === 'distributed') return null;
    const fits = view
      .table('drive')
      .by('array', group.array)
      .some((drive) => drive.spare !== 'no' && !spareUnfit(drive, needOf(view, group, 0)));
    return fits
      ? null
      : {
          says: `No spare fits ${group.name}.`,
          advice: `Keep a drive that gives at least ${formatBytes(group.memberSize)} as a spare.`,
          mend: offer('Keep a spare', 'drive.assign-spare', { array: arrayName(view, group) }),
        };
  }),
  {
    id: 'spare-too-small',
    severity: 'warning',
    title: 'Spares that fit nothing',
    *find(view) {
      for (const drive of view.table('drive').values()) {
        if (drive.spare === 'no' || drive.raidGroup || drive.state !== 'ok') continue;
        const groups = view
          .table('raidGroup')
          .by('array', drive.array)
          .filter((group) => group.level !== 'distributed' && sameClass(view, group, drive));
        if (groups.length === 0 || groups.some((group) => usableOfDrive(drive.capacity) >= group.memberSize)) continue;
        const name = `${arrayName(view, drive)} ${driveRef(view, drive)}`;
        yield {
          subject: { kind: 'drive', id: drive.id, name },
          says: `Spare ${name} is smaller than the drives it covers: it gives ${formatBytes(usableOfDrive(drive.capacity))}, ${groups[0]!.name} needs ${formatBytes(groups[0]!.memberSize)}.`,
          advice: 'Release it and keep a larger drive as a spare.',
          mend: offer('Release it', 'drive.release-spare', {
            array: arrayName(view, drive),
            drives: [driveRef(view, drive)],
          }),
        };
      }
    },
  },
  {
    id: 'spare-too-few',
    severity: 'warning',
    title: 'Too few spares',
    *find(view) {
      for (const array of ownArrays(view)) {
        const classes = new Set(
          view
            .table('drive')
            .by('array', array.id)
            .filter((drive) => drive.raidGroup)
            .map((drive) => drive.media),
        );
        for (const media of classes) {
          const { used, ready, advised } = spareFigures(view, array.id, media);
          // None at all is told for each group.
          if (ready === 0 || ready >= advised) continue;
          yield {
            subject: { kind: 'array', id: array.id, name: array.name },
            says: `${array.name}: ${ready} ${ready === 1 ? 'spare' : 'spares'} for ${used} drives of ${mediaFigures[media].label}, ${advised} advised.`,
            advice: 'Keep more drives as spares.',
            mend: offer('Keep a spare', 'drive.assign-spare', { array: array.name }),
          };
        }
      }
    },
  },
  {
    id: 'spare-consumed',
    severity: 'note',
    title: 'Spares at work',
    *find(view) {
      for (const drive of view.table('drive').values()) {
        const original = drive.standsInFor ? view.table('drive').get(drive.standsInFor) : undefined;
        if (!original || !drive.raidGroup) continue;
        const copying = view.table('job').by('drive', original.id).length > 0;
        yield {
          subject: { kind: 'drive', id: drive.id, name: `${arrayName(view, drive)} ${driveRef(view, drive)}` },
          says: `${driveRef(view, drive)} stands in for ${driveRef(view, original)} in ${raidGroupOf(view, drive)?.name}.`,
          advice: copying
            ? 'It copies back to the new drive.'
            : `Replace ${driveRef(view, original)}; the spare is free after the copy back.`,
          mend: copying
            ? null
            : offer('Replace the drive', 'drive.replace', {
                array: arrayName(view, drive),
                drives: [driveRef(view, original)],
              }),
        };
      }
    },
  },
];

const sameClass = (view: EstateView, group: RaidGroup, spare: Drive): boolean => {
  const [first] = membersOf(view, group);
  return first !== undefined && first.media === spare.media && first.sector === spare.sector;
};
