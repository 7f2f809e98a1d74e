import { z } from 'zod';
import { writingOf } from '../copies/writing';
import { created, type Effect } from '../estate/effects';
import { rowOf, type Pool, type Replication, type SiteLink, type Volume } from '../estate/entities';
import type { Overlay, EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { makeNaa, makeSerial } from '../naming/identity';
import { besideMoves, extentsBesideMoves } from '../volume/promised';
import { draftText } from '../operation/draft';
import { folded, such } from '../operation/form';
import { lookUp, type Inquiry } from '../operation/inquiry';
import { nextStep, type Draft, type Foretold, type PlanContext } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { exactBytes, formatBytes, GIB, parseBytes, type Bytes } from '../units/bytes';
import { formatDuration } from '../units/duration';
import { formatRate } from '../units/rate';
import { leastLoaded } from '../volume/create-room';
import { giveAll } from '../volume/grow';
import { LOG_OUTAGE, USUAL_BUDGET } from './choices';
import { addedBy, logMinimum, mirrorNeed } from './mirror';
import { hourWords } from '../units/week';
import { lineRate } from './line';
import { maxDistance } from './sync';

export const mirrorParams = {
  onLoss: z
    .enum(['continue', 'fence'])
    .optional()
    .describe('What hosts of a mirror do when its other side is lost: go on alone, or wait'),
  order: z
    .enum(['kept', 'free'])
    .optional()
    .describe('Volumes of a mirror come back together, or each by itself and faster'),
  log: z
    .string()
    .optional()
    .describe('Size of the log volume at each side of a mirror, such as 200 GiB; none keeps a map alone'),
  budget: z.string().optional().describe('Milliseconds that a mirror may add to a write; none for any'),
};
export const mirrorFields = {
  onLoss: folded('When the other side is lost'),
  order: folded('Order of writes'),
  log: folded(such('Log at each side', '200 GiB')),
  budget: folded(such('May add to a write, ms', '5')),
};

/** What is said of a mirror. */
export interface Mirror {
  fields: Pick<Replication, 'onLoss' | 'order' | 'budget'>;
  log: Bytes | null;
}

const isNone = (text: string): boolean => text.trim().toLowerCase() === 'none';

/** Milliseconds that a mirror may add; null for any. */
export function readBudget(asks: Inquiry, text: string, name: string): number | null | undefined {
  if (isNone(text)) return null;
  const ms = Number(text.replace(/\s*ms$/, ''));
  if (ms > 0 && ms <= 10_000) return ms;
  asks.refuse({
    code: 'not-milliseconds',
    field: 'budget',
    subject: { kind: 'replication', name },
    message: `${text} is no number of milliseconds.`,
    mend: 'Write a number such as 5, or none.',
  });
  return undefined;
}

/** What is said of a mirror, and the usual for what is not. */
export function readMirror(asks: Inquiry, p: z.output<z.ZodObject<typeof mirrorParams>>, name: string): Mirror {
  const budget = p.budget ? readBudget(asks, p.budget, name) : USUAL_BUDGET;
  const log = p.log && !isNone(p.log) ? asks.value(parseBytes(p.log), 'log', { kind: 'replication', name }) : null;
  return {
    fields: { onLoss: p.onLoss ?? 'continue', order: p.order ?? 'kept', budget: budget ?? null },
    log: log ?? null,
  };
}

const ms = (value: number): string => `${value < 10 ? value.toFixed(2) : value.toFixed(1)} ms`;

/** What a mirror over a line costs, in a sentence. */
export function mirrorWords(view: EstateView, volumes: readonly Volume[], link: SiteLink): string {
  const added = addedBy(link, volumes);
  const { bytesPerS, hour } = mirrorNeed(writingOf(view, volumes), 1);
  const through = lineRate(link).bytesPerS;
  return `Mirrored over ${link.name}, each write of ${formatBytes(added.write.ioBytes)} takes ${ms(added.ms)} more; at its busiest (${hourWords(hour)}) it needs ${formatRate(Math.round(bytesPerS))} of ${formatRate(Math.round(through))}.`;
}

/** Refuses a mirror that would cost hosts more than they may be asked for, or that its line cannot carry. */
export function askMirror(
  view: EstateView,
  asks: Inquiry,
  volumes: readonly Volume[],
  link: SiteLink,
  { fields, log }: Mirror,
  name: string,
): void {
  const subject = { kind: 'replication', name } as const;
  const { ms: added, write } = addedBy(link, volumes);
  if (fields.budget !== null && added > fields.budget) {
    const { distanceKm: _distance, ...rest } = write;
    const reach = maxDistance({ ...rest, maxAddedS: fields.budget / 1000 });
    asks.refuse({
      code: 'sync-latency-budget',
      field: 'link',
      subject: subjectOf('siteLink', link),
      message: `Over ${link.name} the mirror adds ${ms(added)} to each write of ${formatBytes(write.ioBytes)}; ${ms(fields.budget)} are allowed. ${reach.ok ? `${Math.floor(reach.value.km)} km of such a line would do.` : reach.message}`,
      mend: 'Choose a shorter line, allow more, or copy again and again instead.',
    });
  }
  const need = mirrorNeed(writingOf(view, volumes), 1);
  const through = lineRate(link).bytesPerS;
  if (need.bytesPerS > through)
    asks.refuse({
      code: 'sync-line-too-narrow',
      field: 'link',
      subject: subjectOf('siteLink', link),
      message: `On ${hourWords(need.hour)} ${name} needs ${formatRate(Math.round(need.bytesPerS))}, and ${link.name} brings ${formatRate(Math.round(through))} through: hosts would wait for it.`,
      mend: 'Choose a faster line, or copy again and again instead.',
    });
  if (log !== null && log < GIB)
    asks.refuse({
      code: 'log-too-small',
      field: 'log',
      subject,
      message: `A log of ${formatBytes(log, 'used')} holds next to nothing.`,
      mend: `Make it ${logWords(view, volumes, link).least} or more, or write none.`,
    });
}

/** How large a log must be, in words. */
function logWords(view: EstateView, volumes: readonly Volume[], link: SiteLink): { least: string; says: string } {
  const size = logMinimum(writingOf(view, volumes), link);
  if (!size.ok) return { least: exactBytes(GIB), says: size.message };
  const least = formatBytes(Math.ceil(size.value.minimumBytes / GIB) * GIB);
  return {
    least,
    says: `To bridge ${formatDuration(LOG_OUTAGE)} in the busiest hours it takes ${least} at each side.`,
  };
}

/** Log volumes of one size, all of whose extents are taken, at both sides. */
export function logVolumes(
  overlay: Overlay,
  asks: Inquiry,
  { name, size, pools }: { name: string; size: Bytes; pools: readonly Pool[] },
  context: PlanContext,
): { id: string; effects: Effect[] }[] {
  // As large at both sides, whatever their extents.
  const whole = Math.max(...pools.map((pool) => pool.extentSize));
  const bytes = Math.ceil(size / whole) * whole;
  return pools.map((pool) => {
    const array = arrayOf(overlay, pool);
    const extents = bytes / pool.extentSize;
    const left = extentsBesideMoves(overlay, pool);
    if (extents > left)
      asks.refuse({
        code: 'pool-too-small',
        field: 'log',
        subject: subjectOf('pool', pool),
        message: `${pool.name} on ${array.name} has ${formatBytes(left * pool.extentSize)} left${besideMoves(overlay, pool)}; the log takes ${formatBytes(size, 'used')}.`,
        mend:
          left > 0
            ? `Make it ${exactBytes(left * pool.extentSize)} at most, or extend ${pool.name}.`
            : `Extend ${pool.name}.`,
        offer: nextStep(`Extend ${pool.name}`, 'pool.extend', { array: array.name, name: pool.name }),
      });
    const id = context.newId('volume');
    const stem = `${
      name
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, '-')
        .replace(/^-+|-+$/g, '')
        .slice(0, 50) || 'mirror'
    }-log`;
    const volume = rowOf('volume', {
      id,
      name: lookUp(overlay, 'volume', stem, array.id) ? `${stem}-${id.slice(-4)}` : stem,
      array: array.id,
      pool: pool.id,
      size: bytes,
      provisioning: 'thick',
      naa: makeNaa(array.companyId, id),
      serial: makeSerial(id),
      owner: (leastLoaded(overlay, array.id) ?? [...overlay.table('controller').by('array', array.id)][0]!).id,
      written: 0,
      reduction: false,
      createdAt: context.now,
      notes: `log of replication ${name}`,
    });
    const made: Effect[] = [created('volume', volume)];
    overlay.apply(made);
    const given = extents > left ? [] : giveAll(overlay, volume, pool, context.newId).effects;
    overlay.apply(given);
    return { id, effects: [...made, ...given] };
  });
}

/** What the fields of a mirror say while they are filled in. */
export const mirrorForetold = (
  view: EstateView,
  draft: Draft,
  volumes: readonly Volume[],
  link: SiteLink | undefined,
): Foretold['fields'] => ({
  onLoss: {
    choices: [
      { value: 'continue', label: 'Hosts go on alone' },
      { value: 'fence', label: 'Hosts wait' },
    ],
    says:
      draftText(draft, 'onLoss') === 'fence'
        ? 'Nothing is ever lost, and nothing is written until the other side is back or somebody decides.'
        : 'Only for a mirror: what changes meanwhile stands here alone.',
  },
  order: {
    choices: [
      { value: 'kept', label: 'Kept over all its volumes' },
      { value: 'free', label: 'Each volume by itself' },
    ],
    says: 'Only for a mirror: each by itself is faster, and consistent volume by volume only.',
  },
  log: {
    says:
      link && volumes.length > 0
        ? logWords(view, volumes, link).says
        : 'Only for a mirror; without one a map alone is kept.',
  },
  budget: { says: `Only for a mirror; ${USUAL_BUDGET} ms unless said.` },
});
