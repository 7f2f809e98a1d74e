import { innermost } from '../classes/rules';
import { addedRate } from '../copies/writing';
import { copiesOf } from '../copies/area';
import { legOf } from '../copies/legs';
import { lockedUntil } from '../copies/locked';
import { logOwner, replicaOf } from '../copies/replica';
import type { Move, Pool, SiteLink, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, poolOf, siteOf } from '../estate/relations';
import { lookUp } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { subjectOf, type Refusal } from '../operation/refusal';
import { allotmentOf, allotmentRefusal } from '../pool/allotments';
import { spareRate } from '../replicate/spare';
import { unpartneredWhy } from '../replicate/partners';
import { classOf, judged, poolFacts } from '../service/facts';
import { formatBytes, type Bytes } from '../units/bytes';
import { counted, someOf } from '../units/counted';
import { timeText } from '../units/date';
import type { Milliseconds } from '../units/duration';
import { lockedCopies } from '../volume/delete';
import { subscriptionRefusal } from '../volume/create';
import { LEAST_PATHS } from './choices';
import { newWays } from './prepare';
import { extentsBesideMoves, needAt } from '../volume/promised';
import { moveOf } from './roads';

/** What a move is asked to be. */
export interface MoveAsked {
  volume: Volume;
  to: Pool;
  /** Null within one site, undefined where no line leads there. */
  link: SiteLink | null | undefined;
  identity: Move['identity'];
  /** What cannot go along may stay behind. */
  leaves: boolean;
}

/** One thing that must hold before a volume moves, whether it does, and why. */
export interface Prerequisite {
  what: string;
  ok: boolean;
  why: string;
  refusal: Refusal | null;
}

/** What hosts add to a volume while it is copied at a rate. */
export function growthWhile(view: EstateView, volume: Volume, seconds: number): Bytes {
  return Math.min(volume.size - volume.written, Math.ceil(addedRate(view, volume) * seconds));
}

/** Everything that must hold before a volume moves, in order, each with its reason (move.md A). */
export function prerequisites(view: EstateView, asked: MoveAsked, now: Milliseconds): Prerequisite[] {
  const { volume, to, identity, leaves } = asked;
  const from = poolOf(view, volume);
  const [source, target] = [arrayOf(view, volume), arrayOf(view, to)];
  const within = source.id === target.id;
  const lines: Prerequisite[] = [];
  const line = (
    what: string,
    why: string,
    refusal: (Pick<Refusal, 'code' | 'mend'> & Partial<Refusal>) | null | undefined = null,
    holds?: string,
  ) => {
    const full = refusal
      ? { field: 'volumes', subject: subjectOf('volume', volume), message: `${volume.name}: ${why}.`, ...refusal }
      : null;
    lines.push({ what, ok: full === null, why: full === null ? (holds ?? why) : why, refusal: full });
  };
  const goes = moveOf(view, volume.id);
  line(
    'Nothing else at work on it',
    goes ? `it goes to ${view.table('pool').get(goes.toPool)!.name} already` : 'it is being converted',
    goes
      ? { code: 'move-under-way', mend: 'Wait until that is over, or abort it.', subject: subjectOf('move', goes) }
      : view.table('job').countBy('volume', volume.id) > 0
        ? { code: 'volume-busy', mend: 'Wait until that is done.' }
        : null,
    'no other move, no conversion',
  );
  line(
    'Another pool',
    to.id === from.id ? `it lies in ${to.name} already` : `${to.name} is room of one RAID group, no pool`,
    to.id === from.id
      ? { code: 'move-same-pool', field: 'pool', mend: 'Choose another pool.' }
      : to.direct
        ? { code: 'no-pool', field: 'pool', mend: 'Choose a pool.' }
        : null,
    `${target.name} ${to.name}`,
  );
  const clones = view.table('volume').by('origin', volume.id);
  const root = volume.origin === null ? null : view.table('volume').get(volume.origin)!;
  line(
    'Data of its own',
    root
      ? `it is made of a copy of ${root.name} and shares its data`
      : `${someOf(clones.map(({ name }) => name))} share its data`,
    root || clones.length > 0
      ? {
          code: 'clone-shares',
          mend: 'Let what is made of copies hold its own data first.',
          offer: nextStep('Let it hold its own data', 'volume.detach', {
            array: source.name,
            volumes: root ? [volume.name] : clones.map(({ name }) => name),
          }),
        }
      : null,
    'shared with no other volume',
  );
  roomLines(view, asked, line);
  copyLine(view, asked, now, line);
  replicationLine(view, volume, within, line);
  const facts = classOf(view, volume.id);
  if (facts) {
    const misfits = judged(view, facts.rules, poolFacts(view, to)).filter(({ outcome }) => outcome === 'fail');
    line(
      `Class ${facts.name}`,
      `${to.name} does not fit it: ${someOf(misfits.map(({ rule }) => innermost(rule).key))}`,
      misfits.length > 0 && !leaves
        ? { code: 'move-leaves-class', field: 'leaves', mend: 'Choose a pool that fits, or accept what stays behind.' }
        : null,
      misfits.length > 0
        ? `accepted, though ${someOf(misfits.map(({ rule }) => innermost(rule).key))} differ`
        : `${to.name} fits`,
    );
  }
  line(
    'Size and sectors',
    `${formatBytes(volume.size)}, ${volume.blockSize} B`,
    null,
    `${formatBytes(volume.size)}, sectors of ${volume.blockSize} B at both sides`,
  );
  if (!within) arrayLines(view, asked, line);
  else line('Hosts', 'they notice nothing', null, 'the same device and paths, nothing to do');
  if (identity === 'new' && within)
    lines.push({
      what: 'Identity',
      ok: false,
      why: 'it stays within one array',
      refusal: {
        code: 'move-identity-stays',
        field: 'identity',
        subject: subjectOf('volume', volume),
        message: `${volume.name} stays on ${source.name}: its hosts keep the device they have.`,
        mend: 'Leave the identity as it is.',
      },
    });
  return lines;
}

type Line = (
  what: string,
  why: string,
  refusal?: (Pick<Refusal, 'code' | 'mend'> & Partial<Refusal>) | null,
  holds?: string,
) => void;

function roomLines(view: EstateView, { volume, to }: MoveAsked, line: Line): void {
  const need = needAt(volume, to);
  const free = extentsBesideMoves(view, to) * to.extentSize;
  const target = arrayOf(view, to);
  const rate = Math.min(spareRate(view, volume.array), spareRate(view, target.id));
  const growth = rate > 0 ? growthWhile(view, volume, need / rate) : 0;
  const figures = `${formatBytes(need, 'used')}${growth > 0 ? ` and ${formatBytes(growth, 'used')} that hosts add` : ''} of ${formatBytes(free)} that ${to.name} has free beside its reserve and other moves`;
  line(
    'Room',
    figures,
    need + growth > free
      ? {
          code: 'move-room',
          field: 'pool',
          subject: subjectOf('pool', to),
          message: `${volume.name} needs ${figures}.`,
          mend: `Extend ${to.name}, choose another pool, or move less.`,
        }
      : null,
  );
  const limit = subscriptionRefusal(view, to, volume.size);
  if (limit) line('What the pool promises', limit.message, { ...limit, field: 'pool' });
  const allotment = allotmentOf(view, volume.id);
  const over =
    allotment &&
    allotmentRefusal(view, allotment, [{ pool: to.id, bytes: volume.size }], 'pool', {
      volumes: 1,
      pools: { [volume.pool]: volume.size },
    });
  if (allotment)
    line(`Allotment ${allotment.name}`, over?.message ?? '', over, `${to.name} has it within the allotment`);
}

function copyLine(view: EstateView, { volume, leaves }: MoveAsked, now: Milliseconds, line: Line): void {
  const copies = copiesOf(view, volume.id);
  const locked = lockedCopies(view, volume, now);
  const until = lockedUntil(view, locked, now);
  const words = `${counted(copies.length, 'copy', 'copies')} in time ${copies.length === 1 ? 'stays' : 'stay'} behind with the old copy${until === null ? '' : `, which cannot go before ${timeText(until)} UTC`}`;
  line(
    'Copies in time',
    words,
    copies.length > 0 && !leaves
      ? {
          code: 'move-copies-stay',
          field: 'leaves',
          message: `${volume.name}: ${words}; ${copies.length === 1 ? 'it goes' : 'they go'} when the move is accepted.`,
          mend: 'Accept what stays behind, or delete the copies first.',
        }
      : null,
    copies.length > 0 ? words : 'none would be left behind',
  );
}

function replicationLine(view: EstateView, volume: Volume, within: boolean, line: Line): void {
  const found = replicaOf(view, volume.id);
  const log = logOwner(view, volume.id);
  const row = found?.row ?? log;
  if (!row) {
    line('Replication', 'no side of one', null, 'it is no side of one');
    return;
  }
  const remove = nextStep(`Remove ${row.name}`, 'replication.remove', { replication: row.name });
  if (legOf(view, volume.id) && !within)
    line('Replication', `it is a leg of ${row.name}, which is stretched`, {
      code: 'move-stretched',
      mend: `Move it within its array, or take a leg of ${row.name} away first.`,
      offer: nextStep(`Take a leg of ${row.name} away`, 'stretch.dissolve', { replication: row.name }),
    });
  else if (found && found.row.source !== found.side)
    line('Replication', `it receives replication ${row.name}`, {
      code: 'move-replica-target',
      mend: `Turn ${row.name}, or remove it first: both data sets stay.`,
      offer: remove,
    });
  else if (!within)
    line('Replication', `replication ${row.name} starts at its array`, {
      code: 'move-replicated',
      mend: `Remove ${row.name} first, and copy it anew from where it goes.`,
      offer: remove,
    });
  else line('Replication', '', null, `${row.name} goes on as it is`);
}

function arrayLines(view: EstateView, { volume, to, link, identity, leaves }: MoveAsked, line: Line): void {
  const [source, target] = [arrayOf(view, volume), arrayOf(view, to)];
  const apart = source.site !== target.site;
  const unknown = apart ? unpartneredWhy(view, source.id, target.id) : null;
  line(
    'Way between the arrays',
    link === undefined
      ? `no line joins ${siteOf(view, source).name} and ${siteOf(view, target).name}`
      : (unknown ?? ''),
    link === undefined
      ? {
          code: 'waves-no-link',
          field: 'to',
          mend: 'Register the line between both sites.',
          message: `No link between ${source.name} and ${target.name}.`,
        }
      : unknown !== null
        ? { code: 'move-unpartnered', field: 'to', mend: 'Introduce both arrays to each other first.' }
        : null,
    apart ? `over ${link?.name}` : 'within one site',
  );
  const named = lookUp(view, 'volume', volume.name, target.id);
  line(
    'Its name',
    `${target.name} has another volume ${volume.name}`,
    named ? { code: 'name-taken', mend: `Rename one of them first.`, subject: subjectOf('volume', named) } : null,
    `${volume.name} is free at ${target.name}`,
  );
  for (const { host, mapping, after, paths, holder } of newWays(view, volume, target, identity)) {
    const lun = mapping.subsystem === null ? `LUN ${mapping.lun}` : `namespace ${mapping.lun}`;
    if (after === null)
      line(`Paths of ${host.name}`, `${target.name} shows it nothing by NVMe`, {
        code: 'move-subsystem',
        mend: `Give ${host.name} a subsystem at ${target.name} first.`,
        offer: nextStep('Make a subsystem', 'subsystem.create', { array: target.name, allowed: [host.name] }),
        subject: subjectOf('host', host),
      });
    else
      line(
        `Paths of ${host.name}`,
        `${paths} of ${LEAST_PATHS} at least to ${target.name}`,
        paths < LEAST_PATHS
          ? {
              code: 'move-paths',
              message: `${host.name} has ${counted(paths, 'path')} to ${target.name}; ${volume.name} would hang on ${paths === 0 ? 'nothing' : 'one'}.`,
              mend: 'Zone it or let it log in there first; moving with zones does both.',
              offer: nextStep('Move it with zones', 'storage.move', {
                array: source.name,
                volumes: [volume.name],
                to: target.name,
                pool: to.name,
              }),
              subject: subjectOf('host', host),
            }
          : null,
        `${paths} to ${target.name}, not used before the cut`,
      );
    if (identity === 'kept')
      line(
        `${lun} at ${host.name}`,
        `shows ${holder?.name ?? ''} of ${target.name} there`,
        holder
          ? {
              code: 'move-lun-taken',
              mend: `Free ${lun} at ${host.name}, or take a new identity.`,
              subject: subjectOf('host', host),
            }
          : null,
        'free there too',
      );
  }
  const stays = [
    ...view
      .table('tierUse')
      .by('volume', volume.id)
      .map(({ tierPolicy }) => view.table('tierPolicy').get(tierPolicy)!.name),
    ...view
      .table('limitUse')
      .by('volume', volume.id)
      .map(({ loadLimit }) => view.table('loadLimit').get(loadLimit)!.name),
  ];
  if (stays.length > 0)
    line(
      'Limits and tier policy',
      `${someOf(stays)} ${stays.length === 1 ? 'belongs' : 'belong'} to ${source.name}`,
      leaves
        ? null
        : {
            code: 'move-limits-stay',
            field: 'leaves',
            mend: `Accept what stays behind and set them anew at ${target.name}, or take it out first.`,
          },
      `${someOf(stays)} ${stays.length === 1 ? 'stays' : 'stay'} behind, as accepted`,
    );
}
