import { z } from 'zod';
import { shownBytes, sharedBytes } from '../copies/parts';
import { cutOf } from '../copies/cut';
import { changed, type Effect } from '../estate/effects';
import type { HostDevice, Kind, Snapshot, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, hostOf, poolOf } from '../estate/relations';
import { draftFlag } from '../operation/draft';
import { pick } from '../operation/form';
import { inquire, type Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { subjectOf } from '../operation/refusal';
import { formatBytes, type Bytes } from '../units/bytes';
import { counted, someOf } from '../units/counted';
import { timeText } from '../units/date';
import { formatDuration, SECOND, type Milliseconds } from '../units/duration';
import { goneBack } from './back';
import { freeCopyName, nameByPattern } from './names';
import { draftPoints, pointChoices } from './points-field';
import {
  askPoints,
  askProtected,
  draftProtected,
  namedWords,
  protectedFields,
  subjectOfProtected,
  type Protected,
  type RestorePoint,
} from './subject';
import { namedFields, namedParams } from './named';
import { replicaBar, replicaOf } from '../copies/replica';

const schema = z.object({
  ...namedParams,
  copy: z.string().describe('The copy to go back to'),
  safety: flag.default(true).describe('What stands now is copied first'),
  stopped: flag.default(false).describe('The hosts that have it mounted are stopped'),
});
type Params = z.output<typeof schema>;

/** What going back to a moment does to one volume (protect.md F). */
export interface RestoreFigures {
  /** Bytes that come back: the copy shows them and the volume does not. */
  restored: Bytes;
  /** Bytes written since, which go from the volume. */
  dropped: Bytes;
  filesBack: string[];
  filesGone: string[];
}

export function restoreFigures(view: EstateView, volume: Volume, copy: Snapshot): RestoreFigures {
  const shared = standingOf(view, volume, copy);
  const then = new Map(copy.files.map((file) => [file.path, file.checksum]));
  const now = new Map(volume.files.map((file) => [file.path, file.checksum]));
  return {
    restored: Math.max(0, shownBytes(copy) - Math.round(shared)),
    dropped: Math.max(0, shownBytes(volume) - Math.round(shared)),
    filesBack: [...then].filter(([path, sum]) => now.get(path) !== sum).map(([path]) => path),
    filesGone: [...now].filter(([path]) => !then.has(path)).map(([path]) => path),
  };
}

/** Bytes of a copy that its volume still shows: along the branch that leads from the one to the other. */
function standingOf(view: EstateView, volume: Volume, copy: Snapshot): number {
  const table = view.table('snapshot');
  const up = (id: string | null, first: readonly number[]): Map<string, readonly number[]> => {
    const found = new Map<string, readonly number[]>();
    let here = first;
    for (
      let at = id === null ? undefined : table.get(id);
      at;
      at = at.parent === null ? undefined : table.get(at.parent)
    ) {
      found.set(at.id, here);
      here = here.map((share, part) => share * at.stands[part]!);
    }
    return found;
  };
  const fromVolume = up(volume.base, volume.stands);
  const fromCopy = up(copy.id, [1, 1, 1]);
  const meet = [...fromCopy.keys()].find((id) => fromVolume.has(id));
  if (!meet) return 0;
  const stands = fromVolume.get(meet)!.map((share, part) => share * fromCopy.get(meet)![part]!);
  const shared = sharedBytes(table.get(meet)!, { ...volume, stands }, volume.parts);
  return Math.min(shared, shownBytes(copy), shownBytes(volume));
}

/** Devices of hosts that have a volume mounted. */
export const mountedOn = (view: EstateView, volumes: readonly Volume[]): HostDevice[] =>
  volumes
    .flatMap((volume) => view.table('hostDevice').by('volume', volume.id))
    .filter((device) => device.mountPoint !== null);

function askStopped(view: EstateView, asks: Inquiry, subject: Protected, stopped: boolean): void {
  const devices = mountedOn(view, subject.volumes);
  if (devices.length === 0 || stopped) return;
  const hosts = [...new Set(devices.map((device) => hostOf(view, device).name))];
  const [first] = devices;
  asks.refuse({
    code: 'restore-hosts-active',
    field: 'stopped',
    subject: subjectOfProtected(subject),
    message: `${counted(hosts.length, 'host')} still ${hosts.length === 1 ? 'writes' : 'write'} to ${subject.name}: ${someOf(hosts)}.`,
    mend: `Unmount ${someOf(devices.map((device) => `${device.name} at ${hostOf(view, device).name}`))} first, or confirm that they are stopped.`,
    offer: nextStep(`Unmount ${first!.name} at ${hostOf(view, first!).name}`, 'host-device.unmount', {
      host: hostOf(view, first!).name,
      device: first!.name,
    }),
  });
}

function askFits(view: EstateView, asks: Inquiry, volume: Volume, copy: Snapshot): void {
  const [job] = view.table('job').by('volume', volume.id);
  if (job)
    asks.refuse({
      code: 'snapshot-busy',
      field: 'copy',
      subject: subjectOf('volume', volume),
      message: `${volume.name} is being converted since ${timeText(job.startedAt)} UTC.`,
      mend: 'Wait until that is done.',
    });
  const [move] = view.table('move').by('going', volume.id);
  if (move)
    asks.refuse({
      code: 'volume-moving',
      field: 'copy',
      subject: subjectOf('move', move),
      message: `${volume.name} goes to another pool: what it held before would be copied over what it holds.`,
      mend: 'Wait until the move is over, or abort it.',
    });
  if (copy.written > volume.size)
    asks.refuse({
      code: 'restore-size-differs',
      field: 'copy',
      subject: subjectOf('volume', volume),
      message: `${volume.name} has ${formatBytes(volume.size)}; ${copy.name} holds data up to ${formatBytes(copy.written, 'used')}.`,
      mend: `Grow it to ${formatBytes(copy.size)} first.`,
      offer: nextStep(`Grow ${volume.name}`, 'volume.resize', {
        array: arrayOf(view, volume).name,
        volumes: [volume.name],
        size: `${copy.size} B`,
      }),
    });
}

/** What receives a replication is not gone back: the next cycle would carry it forward again. */
function askNoTarget(view: EstateView, asks: Inquiry, volume: Volume): void {
  const bar = replicaBar(view, volume.id);
  if (bar === null) return;
  asks.refuse({
    code: 'restore-is-target',
    field: 'copy',
    subject: subjectOf('volume', volume),
    message: `${volume.name} ${bar}.`,
    mend: 'Go back at its source, or fail over first.',
  });
}

/** Replications of what goes back compare all of it at their next cut. */
const comparedAnew = (view: EstateView, volumes: readonly Volume[]): Effect[] =>
  [...new Set(volumes.flatMap((volume) => replicaOf(view, volume.id)?.row ?? []))]
    .filter((row) => row.compare !== 'all')
    .map((row) => changed('replication', row, { compare: 'all' }));

/** Effects of going back, with the safety copy first. */
function wentBack(
  view: EstateView,
  subject: Protected,
  point: RestorePoint,
  { safety, now, name }: { safety: boolean; now: Milliseconds; name: string },
  newId: (kind: Kind) => string,
): { effects: Effect[]; short: { volume: Volume; extents: number } | null } {
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const members = subject.volumes.filter((volume) => point.copies.some((copy) => copy.volume === volume.id));
  if (safety)
    put(
      cutOf(
        overlay,
        members,
        {
          name,
          at: now,
          workload: subject.workload?.id ?? null,
          notes: `what stood before going back to ${point.name}`,
          label: 'crash',
        },
        newId,
      ).effects,
    );
  for (const { id } of members) {
    const volume = overlay.table('volume').get(id)!;
    const copy = point.copies.find((one) => one.volume === id)!;
    const back = goneBack(overlay, volume, copy, now, newId);
    if (back.short > 0) return { effects, short: { volume, extents: back.short } };
    put(back.effects);
  }
  return { effects, short: null };
}

export const snapshotRestore: OperationType<Params> = {
  kind: 'snapshot.restore',
  verb: 'Go back to a copy',
  summary:
    'A volume or a workload becomes what it was at the moment of a copy. Later copies stay, and what stands now is copied first.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      ...namedFields,
      copy: pick('Back to'),
      safety: { label: 'Copy what stands now first', control: 'switch' },
      stopped: { label: 'Hosts are stopped', control: 'switch' },
    },
  },
  title: (p) => `Bring ${namedWords(p)} back to ${p.copy}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const subject = askProtected(view, asks, p);
    const [point] = subject ? askPoints(view, asks, subject, [p.copy], 'copy') : [];
    if (!subject || !point) return refused(asks.refusals);
    askStopped(view, asks, subject, p.stopped);
    const pairs = point.copies.flatMap((copy) => {
      const volume = subject.volumes.find((one) => one.id === copy.volume);
      return volume ? [{ volume, copy }] : [];
    });
    for (const { volume, copy } of pairs) {
      askFits(view, asks, volume, copy);
      askNoTarget(view, asks, volume);
    }
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const name = freeCopyName(view, subject.volumes, nameByPattern('before-{date}-{time}', context.now));
    const { effects: went, short } = wentBack(
      view,
      subject,
      point,
      { safety: p.safety, now: context.now, name },
      context.newId,
    );
    if (short) {
      const pool = poolOf(view, short.volume);
      asks.refuse({
        code: 'restore-no-space',
        field: p.safety ? 'safety' : 'copy',
        subject: subjectOf('pool', pool),
        message: `${p.safety ? 'The safety copy' : 'Going back'} needs ${formatBytes(short.extents * pool.extentSize)} more in ${pool.name}.`,
        mend: `Extend ${pool.name}, or delete copies.`,
        offer: nextStep(`Extend ${pool.name}`, 'pool.extend', { array: arrayOf(view, pool).name, name: pool.name }),
      });
      return refused(asks.refusals);
    }
    const effects = [...went, ...comparedAnew(view, subject.volumes)];
    const figures = pairs.map(({ volume, copy }) => restoreFigures(view, volume, copy));
    const sum = (of: (one: RestoreFigures) => number) => figures.reduce((total, one) => total + of(one), 0);
    const lost = sum((one) => one.dropped);
    const [backs, gone] = [figures.flatMap((one) => one.filesBack), figures.flatMap((one) => one.filesGone)];
    const left = subject.volumes.filter((volume) => !pairs.some((pair) => pair.volume === volume));
    const array = arrayOf(view, subject.volumes[0]!);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Bring ${subject.name} back to ${timeText(point.at)} UTC: ${formatBytes(
        sum((one) => one.restored),
        'used',
      )} come back, ${formatBytes(lost, 'used')} of ${formatDuration(context.now - point.at)} go`,
      takes: 6 * SECOND,
      effects,
      destroys: `what ${subject.name} wrote since ${timeText(point.at)} UTC${p.safety ? `; ${name} keeps it` : ''}`,
      notes: [
        ...(backs.length > 0 ? [`Files that come back: ${someOf(backs)}.`] : []),
        ...(gone.length > 0 ? [`Files that go: ${someOf(gone)}.`] : []),
        ...(left.length > 0 ? [`${someOf(left.map((volume) => volume.name))} came later and stays as it is.`] : []),
        ...(mountedOn(view, subject.volumes).length > 0 ? ['Hosts must read their file systems anew.'] : []),
        ...(p.safety ? [`Going back to ${name} goes forward again.`] : []),
      ],
    });
  },
  foretell(view, draft, context) {
    const fields: Foretold['fields'] = protectedFields(view, draft);
    const subject = draftProtected(view, draft);
    const [point] = draftPoints(view, draft);
    fields.copy = { choices: pointChoices(view, draft, context.now) };
    if (subject && point) {
      const figures = point.copies.flatMap((copy) => {
        const volume = subject.volumes.find((one) => one.id === copy.volume);
        return volume ? [restoreFigures(view, volume, copy)] : [];
      });
      const sum = (of: (one: RestoreFigures) => number) => figures.reduce((total, one) => total + of(one), 0);
      const files = figures.flatMap((one) => one.filesBack);
      fields.copy.says = `${formatBytes(
        sum((one) => one.dropped),
        'used',
      )} written in ${formatDuration(context.now - point.at)} go, ${formatBytes(
        sum((one) => one.restored),
        'used',
      )} come back${files.length > 0 ? `, with ${someOf(files)}` : ''}.`;
    }
    const devices = subject ? mountedOn(view, subject.volumes) : [];
    fields.safety = {
      suggested: 'true',
      says:
        draft.safety === undefined || draftFlag(draft, 'safety')
          ? 'One can go forward again; later copies stay in any case.'
          : 'What was written since is lost for good.',
    };
    fields.stopped = {
      says:
        devices.length === 0
          ? 'No host has it mounted.'
          : `Mounted at ${someOf(devices.map((device) => `${hostOf(view, device).name} ${device.mountPoint}`))}.`,
    };
    return { fields };
  },
};
