import { z } from 'zod';
import { folded, such } from '../operation/form';
import { flag } from '../operation/params';
import type { Pool } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { Draft, Foretold } from '../operation/operation';
import { draftFlag, draftNumber, draftText } from '../operation/draft';
import type { Inquiry } from '../operation/inquiry';
import { subjectOf, type Subject } from '../operation/refusal';
import { formatBytes, GIB, type Bytes } from '../units/bytes';
import { formatPercent } from '../units/figures';
import {
  COMPRESSION_DELAY_MS,
  COMPRESSION_LOAD,
  DEDUPE_DELAY_MS,
  DEDUPE_LOAD,
  ENCRYPTION_DELAY_MS,
  ENCRYPTION_LOAD,
  MAP_MEMORY_PER_GIB,
  REDUCTION_HEADROOM,
} from './choices';
import { poolUsage, reduces } from './usage';

const percent = z.coerce.number().int().min(1).max(100);

/** What an administrator sets about a pool, at its making or later. */
export const policyShape = {
  notice: percent.optional().describe('First fill mark, per cent'),
  urgent: percent.optional().describe('Second fill mark, per cent'),
  subscriptionLimit: z
    .union([z.coerce.number().int().min(1).max(100_000), z.literal('none')])
    .optional()
    .describe('Most that may be promised, per cent of the size, or none'),
  reserve: z.coerce.number().min(0).max(50).optional().describe('Kept for metadata, snapshots and replicas, per cent'),
  whenFull: z
    .enum(['fail-new-writes', 'stop-thin-writes'])
    .optional()
    .describe(
      'When nothing is left: only writes that need new extents fail, or thin volumes take no more writes at all',
    ),
  alertTo: z.string().max(200).optional().describe('Who is told when a mark is crossed'),
  compression: flag.optional(),
  dedupe: z.enum(['off', 'inline', 'scheduled']).optional(),
  plannedReduction: z.coerce.number().min(1).max(100).optional().describe('Reduction counted on, such as 1.8'),
};
/** How the policy of a pool is filled in, at its making and later. */
export const policyForm = {
  notice: 'Notice at, %',
  urgent: 'Urgent at, %',
  subscriptionLimit: such('Promise at most, %', 'none'),
  whenFull: 'When full',
  dedupe: 'Dedupe',
  compression: { label: 'Compression', control: 'switch' },
  reserve: folded('Reserve, %'),
  plannedReduction: folded({ label: 'Reduction planned', control: 'text', placeholder: '1.8' }),
  alertTo: folded(such('Tell', 'storage desk')),
} as const;

export const policySchema = z.object(policyShape);
export type PolicyParams = z.output<typeof policySchema>;

/** The fields of a pool's row that the parameters set. */
export function policyFields(p: PolicyParams): Partial<Pool> {
  const { subscriptionLimit, ...rest } = p;
  const given = Object.fromEntries(
    (Object.keys(policyShape) as (keyof PolicyParams)[]).flatMap((name) =>
      name === 'subscriptionLimit' || rest[name] === undefined ? [] : [[name, rest[name]]],
    ),
  ) as Partial<Pool>;
  return subscriptionLimit === undefined
    ? given
    : { ...given, subscriptionLimit: subscriptionLimit === 'none' ? null : subscriptionLimit };
}

/** Marks must rise, and reduction needs room to begin. */
export function checkPolicy(asks: Inquiry, subject: Subject, next: Pick<Pool, 'notice' | 'urgent'>): void {
  if (next.notice >= next.urgent)
    asks.refuse({
      code: 'marks-out-of-order',
      field: 'urgent',
      subject,
      message: `The urgent mark, ${next.urgent} %, is not above the notice, ${next.notice} %.`,
      mend: 'Set the urgent mark higher, such as 90 %.',
    });
}

/** Reduction is refused on a pool that has no room to work in. */
export function checkHeadroom(view: EstateView, asks: Inquiry, pool: Pool, next: Pool): void {
  if (reduces(pool) || !reduces(next)) return;
  const usage = poolUsage(view, pool);
  const wanted = Math.ceil(usage.capacity * REDUCTION_HEADROOM);
  if (usage.available >= wanted) return;
  asks.refuse({
    code: 'reduction-headroom',
    field: next.dedupe === 'off' ? 'compression' : 'dedupe',
    subject: subjectOf('pool', pool),
    message: `${pool.name} has ${formatBytes(usage.availableBytes)} left; reduction needs ${formatBytes(wanted * pool.extentSize, 'used')} to work in and for its maps.`,
    mend: 'Add a RAID group or free space first.',
  });
}

/** What the switches cost, beside them. */
export function policyForetold(draft: Draft, size: Bytes, present: Pool | null): Foretold['fields'] {
  const notice = draftNumber(draft, 'notice', present?.notice ?? 70);
  const urgent = draftNumber(draft, 'urgent', present?.urgent ?? 90);
  const limit = draftText(draft, 'subscriptionLimit');
  const dedupe = draftText(draft, 'dedupe') || present?.dedupe || 'off';
  const compression =
    draft.compression === undefined ? (present?.compression ?? false) : draftFlag(draft, 'compression');
  const memory = formatBytes((size / GIB) * MAP_MEMORY_PER_GIB, 'used');
  const stopped = (draftText(draft, 'whenFull') || present?.whenFull) === 'stop-thin-writes';
  return {
    notice: {
      suggested: String(present?.notice ?? 70),
      says: `Reached at ${formatBytes((size * notice) / 100)} used.`,
    },
    urgent: {
      suggested: String(present?.urgent ?? 90),
      says: `Reached at ${formatBytes((size * urgent) / 100)} used.`,
    },
    subscriptionLimit: {
      suggested: present?.subscriptionLimit ? String(present.subscriptionLimit) : 'none',
      says:
        limit && limit !== 'none' && Number(limit) > 0
          ? `New thin volumes are refused beyond ${formatBytes((size * Number(limit)) / 100)} promised.`
          : 'None: as much may be promised as is asked for. Or per cent of the size, such as 200.',
    },
    reserve: {
      suggested: String(present?.reserve ?? 1),
      says: `${formatBytes((size * draftNumber(draft, 'reserve', present?.reserve ?? 1)) / 100, 'used')} are never given to volumes.`,
    },
    whenFull: {
      choices: [
        { value: 'fail-new-writes', label: 'Writes that need new extents fail' },
        { value: 'stop-thin-writes', label: 'Thin volumes take no more writes' },
      ],
      suggested: present?.whenFull ?? 'fail-new-writes',
      says: stopped
        ? 'Hosts see a write-protected device: nothing is half written, and all thin volumes stop.'
        : 'What is allocated can still be written over; hosts that write elsewhere see errors.',
    },
    alertTo: { says: 'Who hears when a mark is crossed. Empty: nobody.' },
    compression: {
      suggested: String(present?.compression ?? false),
      says: compression
        ? `Costs about ${COMPRESSION_DELAY_MS} ms a small I/O and up to ${formatPercent(COMPRESSION_LOAD)} of the controllers.`
        : 'Pages are kept as they are written.',
    },
    dedupe: {
      choices: [
        { value: 'off', label: 'Off' },
        { value: 'inline', label: 'As pages are written' },
        { value: 'scheduled', label: 'By a nightly job' },
      ],
      suggested: present?.dedupe ?? 'off',
      says:
        dedupe === 'off'
          ? 'Equal pages are kept as often as they are written.'
          : `Map of ${memory} in the controllers' memory, ${dedupe === 'inline' ? `${DEDUPE_DELAY_MS} ms a small write` : 'nothing at the write, landing room until the night'}, up to ${formatPercent(DEDUPE_LOAD)} of the controllers.`,
    },
    plannedReduction: { says: 'What was counted on when the pool was bought; a finding tells when it is missed.' },
  };
}

export const encryptionWords = (on: boolean): string =>
  on
    ? `Keys stay on the array. About ${ENCRYPTION_DELAY_MS} ms a small I/O and ${formatPercent(ENCRYPTION_LOAD)} of the controllers. Set once: it cannot be taken back.`
    : 'Set once, at the making of the pool.';
