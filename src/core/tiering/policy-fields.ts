import { z } from 'zod';
import { mediaClasses, type ArrayRow, type MediaClass, type TierPolicyRow, type TierShare } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { byName, draftArray, draftText } from '../operation/draft';
import { lookUp, type Inquiry } from '../operation/inquiry';
import type { Choice, Draft, FieldForetold } from '../operation/operation';
import { subjectOf, type Subject } from '../operation/refusal';
import { realPools } from '../pool/direct';
import { poolUsage, tiersOf } from '../pool/usage';
import { mediaFigures } from '../raid/media';
import { someOf } from '../units/counted';
import { formatBytes } from '../units/bytes';
import { policyWords, poolBounds, underPolicy, type PoolBounds } from '../pool/tier-policy';
import { saidOr } from '../operation/said';

/** What may be said of a policy. */
export const policyParams = {
  shares: z
    .array(z.string())
    .optional()
    .describe('One class a line: `ssd-nvme 10-60`, `hdd-10k at most 40`, `ssd-sas at least 20`, `hdd-7k never`'),
  startOn: z
    .union([z.literal('').transform(() => undefined), z.enum(mediaClasses), z.literal('own')])
    .optional()
    .describe('Where new data goes first; own for where each volume starts by itself'),
  notes: z.string().max(1000).optional(),
};
export type PolicyFigures = Pick<TierPolicyRow, 'shares' | 'startOn' | 'notes'>;
export const noPolicy: PolicyFigures = { shares: [], startOn: null, notes: '' };

const byLabel = new Map<string, MediaClass>(
  mediaClasses.flatMap((media) => [[media, media] as const, [mediaFigures[media].label.toLowerCase(), media] as const]),
);

/** A class with its share, as a line of text; null where it cannot be read. */
export function readShare(line: string): TierShare | null {
  const match =
    /^\s*(?<media>.+?)\s*[:,]?\s+(?:(?<never>never)|(?<all>all)|at most (?<most>\d+)|at least (?<least>\d+)|(?<low>\d+)\s*(?:-|–|to)\s*(?<high>\d+))\s*%?\s*$/i.exec(
      line,
    );
  const { media = '', never, all, most, least, low, high } = match?.groups ?? {};
  const known = byLabel.get(media.toLowerCase());
  if (!known) return null;
  if (never) return { media: known, least: 0, most: 0 };
  if (all) return { media: known, least: 100, most: 100 };
  return { media: known, least: Number(least ?? low ?? 0), most: Number(most ?? high ?? 100) };
}

/** What mends bounds that cannot be met, by why. */
const mends: { readonly [code: string]: string } = {
  'tiers-too-small': 'Widen the bounds, leave a volume out, or add a group of that class first.',
  'tier-class-missing': 'Name a class that the pool has, or leave the volume out.',
};

/** A share as it is written. */
export function shareText({ media, least, most }: TierShare): string {
  if (most === 0) return `${media} never`;
  return least === 100 ? `${media} all` : `${media} ${least}-${most}`;
}

/** The figures over those before, with what contradicts itself said. */
export function readPolicy(
  asks: Inquiry,
  before: PolicyFigures,
  p: z.output<z.ZodObject<typeof policyParams>>,
  subject: Subject,
): PolicyFigures {
  const shares: TierShare[] = [];
  for (const line of p.shares ?? []) {
    if (line.trim() === '') continue;
    const share = readShare(line);
    if (!share)
      asks.refuse({
        code: 'tier-share-unread',
        field: 'shares',
        subject,
        message: `'${line.trim()}' is no share of a class of media.`,
        mend: 'Write a class and its share, such as ssd-nvme 10-60, hdd-10k at most 40, or hdd-7k never.',
      });
    else if (shares.some(({ media }) => media === share.media))
      asks.refuse({
        code: 'tier-share-twice',
        field: 'shares',
        subject,
        message: `${mediaFigures[share.media].label} stands there twice.`,
        mend: 'Give each class one line.',
      });
    else shares.push(share);
  }
  const after: PolicyFigures = {
    shares: p.shares === undefined ? before.shares : shares,
    startOn: saidOr(p.startOn, before.startOn, 'own'),
    notes: p.notes ?? before.notes,
  };
  for (const { media, least, most } of after.shares) {
    const { label } = mediaFigures[media];
    if (least > 100 || most > 100)
      asks.refuse({
        code: 'bound-out-of-range',
        field: 'shares',
        subject,
        message: `${Math.max(least, most)} % cannot lie on ${label}.`,
        mend: 'Whole per cents from 0 to 100 can be set.',
      });
    else if (least > most)
      asks.refuse({
        code: 'bounds-cross',
        field: 'shares',
        subject,
        message: `At least ${least} % and at most ${most} % on ${label} contradict each other.`,
        mend: `Let at least ${least} % lie there, or want no more than ${most} %.`,
      });
  }
  const wanted = after.shares.reduce((sum, { least }) => sum + least, 0);
  if (wanted > 100 && !asks.refusals.some(({ field }) => field === 'shares'))
    asks.refuse({
      code: 'bounds-above-100',
      field: 'shares',
      subject,
      message: `${subject.name} wants at least ${wanted} % in all; there is 100 %.`,
      mend: 'Want less of one class.',
    });
  if (after.startOn && after.shares.some(({ media, most }) => media === after.startOn && most === 0))
    asks.refuse({
      code: 'tier-start-never',
      field: 'startOn',
      subject,
      message: `New data cannot start on ${mediaFigures[after.startOn].label}, where nothing may lie.`,
      mend: 'Let something lie there, or start elsewhere.',
    });
  return after;
}

/** What cannot be placed, in the words of the pool. */
export function boundsWords(
  view: EstateView,
  pool: { name: string; id: string; extentSize: number },
  refusal: NonNullable<PoolBounds['refusal']>,
): string {
  const row = view.table('pool').get(pool.id)!;
  const tiers = tiersOf(poolUsage(view, row));
  const label = (k: number) => mediaFigures[tiers[k]!.media].label;
  if (refusal.code === 'tiers-too-small')
    return `What must lie on ${someOf(refusal.tiers.map(label))} in ${pool.name} is ${formatBytes(refusal.excess * pool.extentSize, 'used')} more than there is room for.`;
  if (refusal.code === 'bounds-below-100')
    return `${refusal.message.replace(/\.$/, '')} in ${pool.name}, whose classes are ${someOf(tiers.map((_, k) => label(k)))}.`;
  return refusal.message;
}

/** Refuses what the pools of volumes cannot place. */
export function askPlaceable(
  asks: Inquiry,
  after: EstateView,
  before: EstateView,
  volumes: readonly { pool: string }[],
  subject: Subject,
  field: string,
): void {
  for (const id of new Set(volumes.map(({ pool }) => pool))) {
    const pool = after.table('pool').get(id)!;
    const { refusal } = poolBounds(after, pool);
    if (!refusal) continue;
    const had = poolBounds(before, pool).refusal;
    // What could not be placed before is not held against this change.
    const same =
      had !== null &&
      ('excess' in refusal
        ? 'excess' in had && had.excess >= refusal.excess
        : 'policy' in had && had.policy === refusal.policy && refusal.policy !== subject.name);
    if (same) continue;
    asks.refuse({
      code: refusal.code,
      field,
      subject,
      message: boundsWords(after, pool, refusal),
      mend: mends[refusal.code] ?? 'Let more of it lie on a class that the pool has.',
    });
  }
}

export const policyChoices = (view: EstateView, array: ArrayRow | undefined): Choice[] =>
  [...view.table('tierPolicy').values()]
    .filter((row) => !array || row.array === array.id)
    .sort(byName)
    .map((row) => ({ value: row.name, label: `${row.name}, ${policyWords(row)}` }));

/** What is said beside the fields of a policy. */
export function policyForetold(
  view: EstateView,
  draft: Draft,
  which: 'new' | 'standing' = 'standing',
): Record<string, FieldForetold> {
  const array = draftArray(view, draft);
  const classes = array
    ? [
        ...new Set(
          realPools(view, array.id).flatMap((pool) => tiersOf(poolUsage(view, pool)).map(({ media }) => media)),
        ),
      ]
    : [];
  return {
    shares: {
      says: `One class a line: ${classes[0] ?? 'ssd-nvme'} 10-60, or ${classes.at(-1) ?? 'hdd-10k'} at most 40, at least 20, never, all.${classes.length > 0 ? ` ${array!.name} has ${classes.join(', ')}.` : ''}`,
    },
    startOn: {
      choices: [
        ...(which === 'standing'
          ? [
              { value: '', label: 'As it is' },
              { value: 'own', label: 'Where each volume starts' },
            ]
          : [{ value: '', label: 'Where each volume starts' }]),
        ...mediaClasses.map((value) => ({ value, label: mediaFigures[value].label })),
      ],
      says: 'New data; what is placed moves by heat within the bounds.',
    },
    notes: { says: 'For those who come after.' },
  };
}

export const draftPolicy = (view: EstateView, draft: Draft): TierPolicyRow | undefined => {
  const array = draftArray(view, draft);
  return array && lookUp(view, 'tierPolicy', draftText(draft, 'policy'), array.id);
};

export const subjectOfPolicy = (row: TierPolicyRow): Subject => subjectOf('tierPolicy', row);

/** Names of who is under a policy, in a sentence. */
export const whoIsUnder = (view: EstateView, policy: string): string =>
  someOf(underPolicy(view, policy).map(({ name }) => name)) || 'no volume yet';
