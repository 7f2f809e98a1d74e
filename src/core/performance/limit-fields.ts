import { z } from 'zod';
import type { LoadLimit, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { draftText } from '../operation/draft';
import { folded, pick, such } from '../operation/form';
import type { Inquiry } from '../operation/inquiry';
import type { Choice, Draft, FieldForetold } from '../operation/operation';
import { flag } from '../operation/params';
import type { Subject } from '../operation/refusal';
import { formatBytes } from '../units/bytes';
import { formatCount } from '../units/figures';
import { parseRate } from '../units/rate';
import { heldBack } from './held-back';
import { limitedTo } from './limits';
import { saidOr } from '../operation/said';

// An empty text comes first: as a number it would be 0.
const rate = z.union([z.literal(''), z.coerce.number().min(0).max(1e9)]).optional();
const hour = z.union([z.literal(''), z.coerce.number().int().min(0).max(23)]).optional();

/** What may be said of a limit; an empty text takes a figure away. */
export const limitParams = {
  iops: rate.describe('Most I/O a second, counted in operations of 64 KiB'),
  rate: z.string().optional().describe('Most bytes a second, with their unit'),
  burst: z.coerce
    .number()
    .int()
    .min(0)
    .max(1e9)
    .optional()
    .describe('Operations that may be saved up and spent at once'),
  floor: rate.describe('I/O a second that each volume is promised'),
  weight: z.coerce.number().min(0).max(1000).optional().describe('How much its volumes get beside others'),
  shared: z
    .union([z.literal('').transform(() => undefined), flag])
    .optional()
    .describe('The figures are for all its volumes together'),
  iopsPerGiB: rate.describe('I/O a second by size, instead of one figure'),
  leastIops: rate.describe('By size, but no less than this'),
  mostIops: rate.describe('By size, but no more than this'),
  fromHour: hour.describe('Holds from this hour of the day'),
  untilHour: hour.describe('Holds until this hour of the day'),
  notes: z.string().max(1000).optional(),
};

export const limitForm = {
  iops: 'Most I/O a second',
  burst: 'Spare burst, operations',
  rate: such('Most bytes a second', '200 MiB/s'),
  floor: 'Promised I/O a second',
  shared: pick('Figures are for'),
  weight: folded('Weight'),
  iopsPerGiB: folded('I/O a second a GiB'),
  leastIops: folded('At least'),
  mostIops: folded('At most'),
  fromHour: folded('Holds from hour'),
  untilHour: folded('Until hour'),
  notes: folded('Notes'),
} as const;

export type LimitParams = z.output<z.ZodObject<typeof limitParams>>;
export type LimitFigures = Omit<LoadLimit, 'id' | 'name' | 'array'>;

export const noFigures: LimitFigures = {
  iops: null,
  bytesPerS: null,
  iopsPerGiB: null,
  leastIops: 0,
  mostIops: null,
  burst: 0,
  floor: null,
  weight: 1,
  shared: false,
  fromHour: null,
  untilHour: null,
  notes: '',
};

/** The figures over those before, with what is wrong about them said. */
export function readLimit(asks: Inquiry, before: LimitFigures, p: LimitParams, subject: Subject): LimitFigures {
  const figure = (named: number | '' | undefined, had: number | null): number | null => saidOr(named, had, '');
  const rateSaid = (said: string): number | null =>
    said.trim() === '' ? null : (asks.value(parseRate(said), 'rate', subject) ?? before.bytesPerS);
  const bytesPerS = p.rate === undefined ? before.bytesPerS : rateSaid(p.rate);
  const after: LimitFigures = {
    iops: figure(p.iops, before.iops),
    bytesPerS,
    iopsPerGiB: figure(p.iopsPerGiB, before.iopsPerGiB),
    leastIops: figure(p.leastIops, before.leastIops) ?? 0,
    mostIops: figure(p.mostIops, before.mostIops),
    burst: p.burst ?? before.burst,
    floor: figure(p.floor, before.floor),
    weight: p.weight ?? before.weight,
    shared: p.shared ?? before.shared,
    fromHour: figure(p.fromHour, before.fromHour),
    untilHour: figure(p.untilHour, before.untilHour),
    notes: p.notes ?? before.notes,
  };
  askFigures(asks, after, subject);
  return after;
}

function askFigures(asks: Inquiry, limit: LimitFigures, subject: Subject): void {
  const zero = (['iops', 'bytesPerS', 'iopsPerGiB', 'floor', 'mostIops'] as const).find((field) => limit[field] === 0);
  if (zero)
    asks.refuse({
      code: 'qos-limit-zero',
      field: zero === 'bytesPerS' ? 'rate' : zero,
      subject,
      message:
        zero === 'floor'
          ? 'A floor of 0 promises nothing.'
          : 'With a limit of 0 hosts would wait for ever, and their file systems fail.',
      mend:
        zero === 'floor'
          ? 'Leave it empty, or promise 1 or more.'
          : 'Set 1 or more; hide a volume that nobody should use from its hosts.',
    });
  if (!(limit.weight > 0))
    asks.refuse({
      code: 'qos-weight-not-positive',
      field: 'weight',
      subject,
      message: `The weight of ${subject.name} must be above 0.`,
      mend: '1 is usual; 2 gets twice as much where not all can be served.',
    });
  const caps = [limit.iops, limit.mostIops].filter((one): one is number => one !== null && one > 0);
  const cap = caps.length > 0 ? Math.min(...caps) : Infinity;
  if (limit.floor !== null && !limit.shared && limit.floor > cap)
    asks.refuse({
      code: 'qos-floor-above-limit',
      field: 'floor',
      subject,
      message: `${subject.name} has a floor of ${formatCount(limit.floor)} but is limited to ${formatCount(cap)}.`,
      mend: 'Promise no more than it may have.',
    });
  if (limit.iopsPerGiB !== null && limit.mostIops !== null && limit.leastIops > limit.mostIops)
    asks.refuse({
      code: 'qos-ends-turned-round',
      field: 'leastIops',
      subject,
      message: `At least ${formatCount(limit.leastIops)} is more than at most ${formatCount(limit.mostIops)}.`,
      mend: 'Turn the two round.',
    });
  if ((limit.fromHour === null) !== (limit.untilHour === null))
    asks.refuse({
      code: 'qos-hours-half-said',
      field: limit.fromHour === null ? 'fromHour' : 'untilHour',
      subject,
      message: 'One end of the hours is missing.',
      mend: 'Set both, or none for all day.',
    });
  const nothing =
    limit.iops === null &&
    limit.bytesPerS === null &&
    limit.iopsPerGiB === null &&
    limit.floor === null &&
    limit.weight === 1;
  if (nothing)
    asks.refuse({
      code: 'qos-limit-without-effect',
      field: 'iops',
      subject,
      message: `${subject.name} would neither hold back nor promise anything.`,
      mend: 'Set I/O or bytes a second, a promise, or a weight.',
    });
  if (limit.burst > 0 && limit.iops === null && limit.bytesPerS === null && limit.iopsPerGiB === null)
    asks.refuse({
      code: 'qos-burst-without-limit',
      field: 'burst',
      subject,
      message: 'A burst is saved up under a limit; without one nothing is held back.',
      mend: 'Set a limit, or leave the burst out.',
    });
}

/** `at most 2,500 I/O a second, 6 k saved up, shared` */
export function limitWords(limit: LimitFigures): string {
  const said = [
    limit.iops !== null ? `at most ${formatCount(limit.iops)} I/O/s` : '',
    limit.iopsPerGiB !== null ? `${formatCount(limit.iopsPerGiB)} I/O/s a GiB` : '',
    limit.bytesPerS !== null ? `at most ${formatBytes(limit.bytesPerS)}/s` : '',
    limit.burst > 0 ? `${formatCount(limit.burst)} operations saved up` : '',
    limit.floor !== null ? `${formatCount(limit.floor)} I/O/s promised` : '',
    limit.weight !== 1 ? `weight ${limit.weight}` : '',
    limit.shared ? 'shared' : '',
    limit.fromHour !== null && limit.untilHour !== null ? `${limit.fromHour}:00 to ${limit.untilHour}:00` : '',
  ];
  return said.filter(Boolean).join(', ') || 'nothing';
}

const hours: Choice[] = [
  { value: '', label: 'All day' },
  ...Array.from({ length: 24 }, (_, k) => ({ value: String(k), label: `${k}:00` })),
];

/** What a limit of this figure would do to a volume, in a sentence. */
export function effectWords(volume: Volume, iops: number): string {
  const { activity } = volume;
  if (!activity) return `Nobody knows what runs on ${volume.name}.`;
  const held = heldBack(activity, iops);
  const peak = `${volume.name} asks ${formatCount(held.peak)} I/O/s at its busiest`;
  if (iops > held.peak) return `${peak}: never held back.`;
  const worst = Math.max(...held.byHour);
  return `${peak}; held back ${held.hoursADay < 0.05 ? 'in bursts only' : `${held.hoursADay.toFixed(1)} h a day`}, at worst ${Math.ceil(worst * 100)} % of an hour comes later.`;
}

/** What is foretold of the figures of a limit on some volumes. */
export function limitForetold(
  view: EstateView,
  draft: Draft,
  before: LimitFigures,
  volumes: readonly Volume[],
): Record<string, FieldForetold> {
  const number = (field: string, had: number | null) => {
    const text = draftText(draft, field);
    return text === '' ? had : Number(text);
  };
  const iops = number('iops', before.iops);
  const shared = draft.shared === undefined ? before.shared : draft.shared === true || draft.shared === 'true';
  const limit = {
    ...before,
    iops,
    iopsPerGiB: number('iopsPerGiB', before.iopsPerGiB),
    leastIops: number('leastIops', before.leastIops) ?? 0,
    mostIops: number('mostIops', before.mostIops),
  };
  const said = volumes.slice(0, 3).map((volume) => {
    const to = limitedTo(
      { ...limit, id: '', name: '', array: '' },
      { size: volume.size, ioBytes: volume.activity?.ioBytes ?? 8192 },
    );
    return to !== null && to > 0 ? effectWords(volume, to) : '';
  });
  const has = (value: number | null, unit: string) => (value === null ? 'None.' : `Now ${formatCount(value)} ${unit}.`);
  return {
    iops: { says: said.filter(Boolean).join(' ') || 'Larger I/O counts once for every 64 KiB.' },
    burst: {
      says:
        before.burst > 0
          ? `Now ${formatCount(before.burst)}.`
          : 'Saved up while it is quiet, spent at once; none unless said.',
    },
    rate: {
      says: before.bytesPerS === null ? 'With its unit; left empty, none.' : `Now ${formatBytes(before.bytesPerS)}/s.`,
    },
    floor: { says: 'Held even with one controller or one drive lost; what is not used is lent out.' },
    shared: {
      choices: [
        { value: '', label: before.shared ? 'All together, as it is' : 'Each volume by itself' },
        {
          value: before.shared ? 'false' : 'true',
          label: before.shared ? 'Each volume by itself' : 'All of them together',
        },
      ],
      says: shared ? 'What one leaves the others may take.' : 'Each has all of it.',
    },
    weight: { says: 'Counts where not all can be served. 1 is usual.' },
    iopsPerGiB: { says: has(before.iopsPerGiB, 'a GiB') },
    leastIops: { says: has(before.leastIops || null, 'I/O/s') },
    mostIops: { says: has(before.mostIops, 'I/O/s') },
    fromHour: { choices: hours, suggested: before.fromHour === null ? '' : String(before.fromHour) },
    untilHour: { choices: hours, suggested: before.untilHour === null ? '' : String(before.untilHour) },
    notes: { says: 'Why it was set, and who asked for it.' },
  };
}
