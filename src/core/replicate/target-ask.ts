import { shownBytes } from '../copies/parts';
import { besideMoves, extentsBesideMoves } from '../volume/promised';
import { arrayChoices, draftText } from '../operation/draft';
import { partnerAt, quotaMisfit } from '../copies/quota';
import { logOwner, replicaOf } from '../copies/replica';
import { rowOf, type ArrayRow, type Pool, type SiteLink, type Volume } from '../estate/entities';
import type { EstateView, Overlay } from '../estate/estate';
import { created, type Effect } from '../estate/effects';
import { arrayOf, poolOf, siteOf } from '../estate/relations';
import { makeNaa, makeSerial } from '../naming/identity';
import { lookUp, type Inquiry } from '../operation/inquiry';
import { subscriptionRefusal } from '../volume/create';
import { nextStep } from '../operation/next-step';
import type { Choice, Draft, Foretold, PlanContext } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { subjectOfProtected, type Protected } from '../protect/subject';
import { exactBytes, formatBytes, type Bytes } from '../units/bytes';
import { counted } from '../units/counted';
import { type Milliseconds } from '../units/duration';
import { leastLoaded } from '../volume/create-room';
import { unpartneredWhy } from './partners';

/** Refuses what could not be copied there. */
export function askSides(view: EstateView, asks: Inquiry, subject: Protected, array: ArrayRow, link: SiteLink): void {
  const no = (code: string, field: string, message: string, mend: string) =>
    asks.refuse({ code, field, subject: subjectOfProtected(subject), message, mend });
  const sites = new Set(subject.volumes.map((volume) => arrayOf(view, volume).site));
  for (const volume of subject.volumes) {
    const replica = replicaOf(view, volume.id);
    if (replica)
      no(
        'replication-overlap',
        'workload',
        `${volume.name} ${replica.side === 'P' ? 'is copied' : 'is a copy'} by ${replica.row.name} already.`,
        `Remove ${replica.row.name} first, or choose others.`,
      );
    if (poolOf(view, volume).direct)
      no(
        'copies-need-pool',
        'workload',
        `${volume.name} lies straight in a RAID group, where nobody tells what changes.`,
        'Carve it from a pool.',
      );
  }
  if (sites.has(array.site))
    no(
      'replication-one-site',
      'to',
      `${array.name} is at ${siteOf(view, array).name}, as what it would copy.`,
      'Choose an array at another site; a copy by plan guards against slips.',
    );
  for (const site of sites)
    if (!sites.has(array.site) && (!link.sites.includes(site) || !link.sites.includes(array.site)))
      no(
        'link-elsewhere',
        'link',
        `${link.name} does not lead from ${view.table('site').get(site)!.name} to ${siteOf(view, array).name}.`,
        'Choose a link that does, or note one.',
      );
}

/** Refuses where the arrays have not agreed to copy, or the target's array lets the source's not have so much. */
export function askPartners(
  view: EstateView,
  asks: Inquiry,
  subject: Protected,
  { array, pool, now }: { array: ArrayRow; pool: Pool; now: Milliseconds },
): void {
  const sources = new Map<string, number[]>();
  for (const { array: from, size } of subject.volumes) sources.set(from, [...(sources.get(from) ?? []), size]);
  for (const [from, sizes] of sources) {
    const source = view.table('array').get(from)!;
    if (source.site === array.site) continue;
    const why = unpartneredWhy(view, from, array.id);
    const row = partnerAt(view, array.id, from);
    if (why !== null || !row) {
      const teller = partnerAt(view, from, array.id) ? array : source;
      const peer = teller === array ? source : array;
      const known = partnerAt(view, teller.id, peer.id);
      asks.refuse({
        code: 'replication-no-partner',
        field: 'to',
        subject: subjectOf('array', array),
        message: `${source.name} and ${array.name} do not copy to each other: ${why}.`,
        mend: known ? 'Mend what does not fit.' : `Introduce ${peer.name} to ${teller.name}.`,
        offer: known
          ? nextStep(`Change what ${teller.name} knows of ${peer.name}`, 'partner.configure', {
              array: teller.name,
              peer: peer.name,
            })
          : nextStep(
              `Introduce ${peer.name} to ${teller.name}`,
              'partner.introduce',
              { array: teller.name, peer: peer.name },
              'addresses',
            ),
      });
      continue;
    }
    const misfit = quotaMisfit(view, row, { pool: pool.id, sizes, now });
    if (misfit)
      asks.refuse({
        code: misfit.reason,
        field: 'pool',
        subject: subjectOf('pool', pool),
        message: `${array.name} to ${source.name}: ${misfit.message}`,
        mend: `Let ${source.name} use more of ${array.name}, or choose another pool.`,
        offer: nextStep(
          `Change what ${source.name} may use`,
          'partner.configure',
          { array: array.name, peer: source.name },
          'offers',
        ),
      });
  }
}

/** Refuses a pool that takes no thin volumes, or has no room for what comes into it beside what is `there` already. */
export function askTargetRoom(
  view: EstateView,
  asks: Inquiry,
  pool: Pool,
  { need, what, there = 0 }: { need: Bytes; what: string; there?: Bytes },
): void {
  const subject = subjectOf('pool', pool);
  if (pool.direct)
    asks.refuse({
      code: 'copies-need-pool',
      field: 'pool',
      subject,
      message: `${pool.name} is a RAID group by itself; it takes no thin volumes.`,
      mend: 'Choose a pool.',
    });
  const left = extentsBesideMoves(view, pool) * pool.extentSize;
  if (need > left + there)
    asks.refuse({
      code: 'replication-target-full',
      field: 'pool',
      subject,
      message: `${pool.name} has ${formatBytes(left)} left${besideMoves(view, pool)}; ${what} takes ${formatBytes(need, 'used')}.`,
      mend: `Extend ${pool.name}, or choose another pool.`,
      offer: nextStep(`Extend ${pool.name}`, 'pool.extend', { array: arrayOf(view, pool).name, name: pool.name }),
    });
}

/** What is foretold of the array and the pool at the other site. */
export function targetForetold(
  view: EstateView,
  draft: Draft,
  volumes: readonly Volume[],
  what: string,
): Foretold['fields'] {
  const to = lookUp(view, 'array', draftText(draft, 'to'));
  const pool = to && lookUp(view, 'pool', draftText(draft, 'pool'), to.id);
  const sites = new Set(volumes.map((volume) => arrayOf(view, volume).site));
  const need = volumes.reduce((sum, volume) => sum + shownBytes(volume), 0);
  return {
    to: {
      choices: arrayChoices(view).map((choice) => {
        const array = lookUp(view, 'array', choice.value)!;
        return sites.has(array.site) ? { ...choice, unfit: `is at ${siteOf(view, array).name} too` } : choice;
      }),
      says: to ? `At ${siteOf(view, to).name}.` : 'An array at another site.',
    },
    pool: {
      choices: to
        ? view
            .table('pool')
            .by('array', to.id)
            .filter((one) => !one.direct)
            .map((one) => ({
              value: one.name,
              label: `${one.name}, ${formatBytes(extentsBesideMoves(view, one) * one.extentSize)} left`,
            }))
        : [],
      says: pool ? `${what} takes ${formatBytes(need, 'used')} of it.` : '',
    },
  };
}

/** A volume at the target, as large as its source, closed to hosts. */
function twinOf(view: EstateView, volume: Volume, pool: Pool, name: string, leg: boolean, context: PlanContext) {
  const id = context.newId('volume');
  const array = arrayOf(view, pool);
  return rowOf('volume', {
    id,
    name,
    array: array.id,
    pool: pool.id,
    size: volume.size,
    provisioning: 'thin',
    naa: makeNaa(array.companyId, id),
    serial: makeSerial(id),
    owner: (leastLoaded(view, array.id) ?? [...view.table('controller').by('array', array.id)][0]!).id,
    written: 0,
    blockSize: volume.blockSize,
    reduction: false,
    content: volume.content,
    createdAt: context.now,
    parts: volume.parts,
    // A leg is worked with as the other one; a copy by nobody, until its site takes over.
    activity: leg ? volume.activity : null,
    notes: `copy of ${arrayOf(view, volume).name} ${volume.name}`,
  });
}

/** How the other side of a volume is called: never the same, since it is by names that people tell both apart. */
export const copyName = (name: string): string => `${name.slice(0, 54)}-copy`;

/** Volumes at the target for some that are to be copied, laid over what is given. */
export function madeTwins(
  overlay: Overlay,
  asks: Inquiry,
  volumes: readonly Volume[],
  { pool, field, leg }: { pool: Pool; field: string; leg?: (name: string) => string },
  context: PlanContext,
): { twins: Volume[]; effects: Effect[] } {
  const effects: Effect[] = [];
  const twins = volumes.map((volume) => {
    const stem = (leg ?? copyName)(volume.name);
    const taken = lookUp(overlay, 'volume', stem, pool.array);
    const limit = subscriptionRefusal(overlay, pool, volume.size);
    if (limit) asks.refuse({ ...limit, field });
    const name = taken ? `${stem}-${context.newId('volume').slice(-4)}` : stem;
    const twin = twinOf(overlay, volume, pool, name, leg !== undefined, context);
    const made = [created('volume', twin)];
    overlay.apply(made);
    effects.push(...made);
    return twin;
  });
  return { twins, effects };
}

/** Refuses a comparison with nothing. */
export const refuseSeedless = (asks: Inquiry, subject: Protected): void =>
  asks.refuse({
    code: 'replication-no-seed',
    field: 'onto',
    subject: subjectOfProtected(subject),
    message: `What ${subject.name} is compared with is not said.`,
    mend: 'Name the volumes there that hold an older copy.',
  });

/** Why a volume cannot take the copies of another, in words after its name; null where it can. */
function unfitTarget(view: EstateView, volume: Volume): string | null {
  if (volume.deletedAt !== null) return 'was retired and is only kept';
  if (volume.origin !== null) return 'is made of a copy and shares its data';
  if (poolOf(view, volume).direct) return 'lies straight in a RAID group';
  if (volume.reducedTo > 0) return 'lies in reduced form';
  if (replicaOf(view, volume.id) || logOwner(view, volume.id)) return 'belongs to a replication';
  const mounted = view
    .table('hostDevice')
    .by('volume', volume.id)
    .some((device) => device.mountPoint !== null);
  if (mounted) return 'is mounted';
  return view.table('job').countBy('volume', volume.id) > 0 ? 'is being converted' : null;
}

/** Volumes there that are to take the copies, one for each source in the order of names. */
export function askOnto(
  view: EstateView,
  asks: Inquiry,
  subject: Protected,
  array: ArrayRow,
  p: { onto?: string[] | undefined; overwrite: boolean },
): Volume[] | null {
  const named = p.onto!.filter((text) => text.trim() !== '');
  const found = named.flatMap((text) => asks.find('volume', text, 'onto', array) ?? []);
  if (found.length < named.length) return null;
  const refuse = (code: string, volume: Volume | null, message: string, mend: string, more: object = {}) =>
    asks.refuse({
      code,
      field: 'onto',
      subject: volume ? subjectOf('volume', volume) : subjectOfProtected(subject),
      message,
      mend,
      ...more,
    });
  if (new Set(found.map(({ id }) => id)).size !== subject.volumes.length || found.length !== subject.volumes.length) {
    refuse(
      'replication-unlike-sides',
      null,
      `${subject.name} has ${counted(subject.volumes.length, 'volume')}; ${counted(found.length, 'volume')} at ${array.name} ${found.length === 1 ? 'is' : 'are'} named.`,
      'Name one for each.',
    );
    return null;
  }
  const pairs = byNames(subject.volumes).map((source, k) => ({ source, target: byNames(found)[k]! }));
  for (const { source, target } of pairs) {
    const unfit = unfitTarget(view, target);
    if (unfit) refuse('replication-target-unfit', target, `${target.name} ${unfit}.`, 'Choose another volume.');
    if (target.size !== source.size) {
      const smaller = target.size < source.size ? target : source;
      refuse(
        'replication-size-differs',
        target,
        `${formatBytes(source.size)} of ${source.name} against ${formatBytes(target.size)} of ${target.name}; make them equal first.`,
        `Grow ${smaller.name} to ${exactBytes(Math.max(source.size, target.size))}.`,
        {
          offer: nextStep(`Grow ${smaller.name}`, 'volume.resize', {
            array: arrayOf(view, smaller).name,
            volumes: [smaller.name],
            size: exactBytes(Math.max(source.size, target.size)),
          }),
        },
      );
    }
    if (target.blockSize !== source.blockSize)
      refuse(
        'replication-sector-differs',
        target,
        `${source.name} has sectors of ${source.blockSize} B, ${target.name} of ${target.blockSize} B.`,
        'Choose one with the same.',
      );
    if (target.written > 0 && !p.overwrite)
      asks.refuse({
        code: 'replication-target-not-empty',
        field: 'overwrite',
        subject: subjectOf('volume', target),
        message: `${target.name} holds ${formatBytes(target.written, 'used')}${target.image ? ` (${target.image.fileSystem})` : ''}; confirm that it may be overwritten.`,
        mend: 'Confirm it, or choose another volume.',
      });
  }
  return subject.volumes.map((source) => pairs.find((pair) => pair.source.id === source.id)!.target);
}

const byNames = (volumes: readonly Volume[]): Volume[] =>
  [...volumes].sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }));

export const ontoChoices = (view: EstateView, array: ArrayRow, subject: Protected): Choice[] =>
  byNames(view.table('volume').by('array', array.id))
    .filter((volume) => subject.volumes.some((source) => source.size === volume.size))
    .map((volume) => {
      const unfit = unfitTarget(view, volume);
      return {
        value: volume.name,
        label: `${volume.name}, ${formatBytes(volume.size)}${volume.written > 0 ? `, holds ${formatBytes(volume.written, 'used')}` : ''}`,
        ...(unfit ? { unfit } : {}),
      };
    });
