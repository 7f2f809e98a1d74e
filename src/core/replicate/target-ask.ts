import { partnerAt, quotaMisfit } from '../copies/quota';
import { replicaOf } from '../copies/replica';
import { rowOf, type ArrayRow, type Pool, type SiteLink, type Volume } from '../estate/entities';
import { type EstateView } from '../estate/estate';
import { arrayOf, poolOf, siteOf } from '../estate/relations';
import { makeNaa, makeSerial } from '../naming/identity';
import { type Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { type PlanContext } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { subjectOfProtected, type Protected } from '../protect/subject';
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

/** A volume at the target, as large as its source, closed to hosts. */
export function twinOf(view: EstateView, volume: Volume, pool: Pool, name: string, context: PlanContext) {
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
    notes: `copy of ${arrayOf(view, volume).name} ${volume.name}`,
  });
}
