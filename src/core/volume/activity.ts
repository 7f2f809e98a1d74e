import { legsOf } from '../copies/legs';
import { z } from 'zod';
import { changedWithin, hoursOfWeek, usualActivity } from '../copies/activity';
import { shownBytes } from '../copies/parts';
import { changed } from '../estate/effects';
import type { Volume } from '../estate/entities';
import { activityKinds, isNamedWeek, weekShapes, type ActivityProfile, type NamedWeek } from '../kinds/activity';
import { draftText } from '../operation/draft';
import { folded, such, the } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { flag, sizeText } from '../operation/params';
import { subjectOf } from '../operation/refusal';
import { formatBytes, parseBytes } from '../units/bytes';
import { someOf } from '../units/counted';
import { DAY, SECOND } from '../units/duration';
import { formatWeek, hourWords, parseWeek } from '../units/week';
import { activityLabels } from './activity-labels';
import { askVolume, volumeFields } from './ask';

const share = z.coerce.number().min(0).max(100).optional();
const rate = z.coerce.number().min(0).max(10_000_000).optional();

const schema = z.object({
  array: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one volume'),
  kind: z
    .enum([...activityKinds, 'none'])
    .optional()
    .describe('What runs on it; the rest follows from it unless said'),
  reads: rate.describe('Reads a second, on the average of a week'),
  writes: rate.describe('Writes a second over what is there'),
  ioSize: sizeText.optional().describe('Size of one read or write, with its unit'),
  pattern: z.enum(['random', 'sequential']).optional(),
  workingSet: share.describe('Per cent of what is written that is touched at all'),
  hot: share.describe('Per cent of the working set that is touched most'),
  hotShare: share.describe('Per cent of the writes that go there'),
  burst: z.coerce.number().min(1).max(1000).optional().describe('Peak of a second over the average'),
  burstSeconds: z.coerce.number().min(5).max(3600).optional().describe('How long a burst lasts'),
  burstsAnHour: z.coerce
    .number()
    .min(0)
    .max(60)
    .optional()
    .describe('How many bursts come in an hour; 0.04 is one a day'),
  week: z.enum(weekShapes).optional().describe('How its hours differ'),
  hours: z
    .string()
    .max(8000)
    .optional()
    .describe('Instead of such a shape, days and hours UTC with how busy they are: Mon-Fri 07-18: 8, else: 1'),
  givesUp: flag.optional().describe('Its oldest copies may go before their time when the pool runs out of room'),
});
type Params = z.output<typeof schema>;

const weekLabels: Record<NamedWeek, string> = {
  even: 'All hours alike',
  office: 'Office hours',
  harbour: 'While ferries sail',
  night: 'At night',
};

/** `Database, 300 writes/s of 8 KiB, 30 % touched`: a profile in a line. */
export const activityWords = ({ kind, reads, writes, ioBytes, workingSet }: ActivityProfile): string =>
  `${activityLabels[kind]}: ${reads} reads/s, ${writes} writes/s of ${formatBytes(ioBytes)} over ${Math.round(workingSet * 1000) / 10} %`;

const unlessSaid = <T>(said: T | undefined, else_: T): T => (said === undefined ? else_ : said);
const asShare = (percent: number | undefined): number | undefined =>
  percent === undefined ? undefined : percent / 100;

/** Hours of its own, as they are kept; undefined where none are said that can be read. */
function weekSaid(hours: string | undefined): string | undefined {
  const read = hours ? parseWeek(hours) : null;
  return read?.ok ? formatWeek(read.value) : undefined;
}

/** `Busiest Monday 07:00 UTC, 2.4 times the mean.` */
function busiestWords(week: string): string {
  const hours = hoursOfWeek(week);
  const most = Math.max(...hours);
  return most - Math.min(...hours) < 1e-9
    ? 'All hours are alike.'
    : `Busiest ${hourWords(hours.indexOf(most))}, ${most.toFixed(1)} times its mean.`;
}

/** The profile that parameters come to, over the one before; undefined where nothing says what kind it is. */
function profileOf(
  before: ActivityProfile | null,
  p: Omit<Params, 'array' | 'volumes'>,
  ioBytes: number | undefined,
): ActivityProfile | null {
  if (p.kind === 'none') return null;
  const usual =
    p.kind && p.kind !== before?.kind ? usualActivity[p.kind] : (before ?? (p.kind ? usualActivity[p.kind] : null));
  if (!usual) return null;
  const burstSeconds = unlessSaid(p.burstSeconds, usual.burstSeconds);
  const burstsAnHour = unlessSaid(p.burstsAnHour, usual.burstsAnHour);
  return {
    kind: usual.kind,
    reads: unlessSaid(p.reads, usual.reads),
    writes: unlessSaid(p.writes, usual.writes),
    ioBytes: unlessSaid(ioBytes, usual.ioBytes),
    pattern: unlessSaid(p.pattern, usual.pattern),
    workingSet: unlessSaid(asShare(p.workingSet), usual.workingSet),
    hot: unlessSaid(asShare(p.hot), usual.hot),
    hotShare: unlessSaid(asShare(p.hotShare), usual.hotShare),
    burst: unlessSaid(p.burst, usual.burst),
    week: weekSaid(p.hours) ?? unlessSaid(p.week, usual.week),
    ...(burstSeconds === undefined ? {} : { burstSeconds }),
    ...(burstsAnHour === undefined ? {} : { burstsAnHour }),
  };
}

const dayWords = (volume: Volume, activity: ActivityProfile, now: number): string => {
  const bytes = changedWithin(activity, shownBytes(volume), now, now + DAY);
  return `A copy made now would keep ${formatBytes(bytes, 'used')} apart after a day.`;
};

export const volumeActivity: OperationType<Params> = {
  kind: 'volume.activity',
  verb: 'Say what hosts do to volumes',
  summary: 'What is read and rewritten on volumes: copies, replication and load are worked out from it.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      volumes: the.volumes,
      kind: 'What runs on it',
      writes: 'Writes each second',
      reads: 'Reads each second',
      ioSize: such('Size of one', '8 KiB'),
      workingSet: 'Touched, % of it',
      week: 'Busy',
      hours: such('Or by the hour', 'Mon-Fri 07-18: 8, else: 1'),
      pattern: folded('Order'),
      hot: folded('Hot part, %'),
      hotShare: folded('Writes there, %'),
      burst: folded('Peak, times'),
      burstSeconds: folded('A peak lasts, s'),
      burstsAnHour: folded('Peaks an hour'),
      givesUp: folded({ label: 'Gives up old copies', control: 'select' }),
    },
  },
  title: (p) => `Say what hosts do to ${someOf(p.volumes)} on ${p.array}`,
  units: (p) => p.volumes.map((volume) => ({ ...p, volumes: [volume] })),
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const volume = askVolume(asks, array, p.volumes[0]!);
    const ioBytes =
      p.ioSize === undefined || p.ioSize === ''
        ? undefined
        : asks.value(parseBytes(p.ioSize), 'ioSize', { kind: 'volume', name: p.volumes[0]! });
    if (ioBytes !== undefined && ioBytes < 512)
      asks.refuse({
        code: 'io-too-small',
        field: 'ioSize',
        subject: { kind: 'volume', name: p.volumes[0]! },
        message: `Hosts write whole blocks; ${p.ioSize} is less than one of 512 B.`,
        mend: 'Write 512 B or more.',
      });
    if (p.hours) asks.value(parseWeek(p.hours), 'hours', { kind: 'volume', name: p.volumes[0]! });
    if (asks.refusals.length > 0 || !array || !volume) return refused(asks.refusals);
    const activity = profileOf(volume.activity, p, ioBytes);
    if (activity === null && p.kind === undefined && p.givesUp === undefined)
      return refused([
        {
          code: 'kind-missing',
          field: 'kind',
          subject: subjectOf('volume', volume),
          message: `Nothing says yet what runs on ${volume.name}.`,
          mend: 'Choose what runs on it.',
        },
      ]);
    const givesUp = p.givesUp ?? volume.givesUp;
    if (JSON.stringify(activity) === JSON.stringify(volume.activity) && givesUp === volume.givesUp)
      return refused([
        {
          code: 'nothing-changes',
          field: 'kind',
          subject: subjectOf('volume', volume),
          message: `${volume.name} is said to be used so already.`,
          mend: 'Say what is to be otherwise, or leave it out.',
        },
      ]);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${volume.name}: ${activity ? activityWords(activity) : 'nobody knows what runs on it'}${givesUp ? ', gives up old copies when room is short' : ''}`,
      takes: SECOND,
      effects: [
        changed('volume', volume, { activity, givesUp }),
        // Both legs of a stretched volume are worked with alike.
        ...legsOf(view, volume.id)
          .filter((id) => id !== volume.id)
          .map((id) => changed('volume', view.table('volume').get(id)!, { activity })),
      ],
      notes: activity ? [dayWords(volume, activity, context.now)] : [],
    });
  },
  foretell(view, draft, context) {
    const { fields, volumes } = volumeFields(view, draft, (volume) =>
      volume.deletedAt === null ? undefined : 'is retired',
    );
    const [first] = volumes;
    const kind = draftText(draft, 'kind');
    const number = (field: string) => (draftText(draft, field) === '' ? undefined : Number(draftText(draft, field)));
    const size = parseBytes(draftText(draft, 'ioSize'));
    const activity =
      first &&
      profileOf(
        first.activity,
        {
          kind: (kind || undefined) as Params['kind'],
          reads: number('reads'),
          writes: number('writes'),
          workingSet: number('workingSet'),
          hot: number('hot'),
          hotShare: number('hotShare'),
          week: (draftText(draft, 'week') || undefined) as Params['week'],
          hours: draftText(draft, 'hours') || undefined,
          pattern: (draftText(draft, 'pattern') || undefined) as Params['pattern'],
        },
        size.ok ? size.value : undefined,
      );
    fields.volumes!.says = first?.activity ? `${first.name} now: ${activityWords(first.activity)}.` : '';
    fields.kind = {
      choices: [
        ...(first?.activity ? [{ value: '', label: 'As it is' }] : []),
        ...activityKinds.map((value) => ({ value, label: activityLabels[value] })),
        { value: 'none', label: 'Nobody knows' },
      ],
      says: activity ? activityWords(activity) : 'The usual figures of its kind; say what is otherwise.',
    };
    const says = (value: string | number | undefined, unit: string) =>
      value === undefined ? `In ${unit}.` : `${value} ${unit} unless said.`;
    fields.writes = {
      says: activity && first ? dayWords(first, activity, context.now) : says(undefined, 'writes each second'),
    };
    fields.reads = { says: says(activity?.reads, 'reads each second') };
    fields.ioSize = { says: activity ? `${formatBytes(activity.ioBytes)} unless said.` : 'With its unit.' };
    fields.workingSet = { says: says(activity ? activity.workingSet * 100 : undefined, '% of what is written') };
    fields.hot = { says: says(activity ? activity.hot * 100 : undefined, '% of the working set') };
    fields.hotShare = { says: says(activity ? activity.hotShare * 100 : undefined, '% of the writes') };
    fields.burst = { says: says(activity?.burst, 'times the average') };
    fields.burstSeconds = { says: says(activity?.burstSeconds ?? 10, 's') };
    fields.burstsAnHour = { says: says(activity?.burstsAnHour ?? 2, 'an hour') };
    const asItIs = activity ? [{ value: '', label: 'As it is' }] : [{ value: '', label: 'As usual' }];
    fields.week = {
      choices: [...asItIs, ...weekShapes.map((value) => ({ value, label: weekLabels[value] }))],
      says: activity ? busiestWords(activity.week) : '',
    };
    const said = draftText(draft, 'hours');
    const read = said === '' ? null : parseWeek(said);
    const own = activity && !isNamedWeek(activity.week) ? activity.week : 'Days and hours UTC with how busy they are';
    fields.hours = { says: read?.ok === false ? read.message : `${own}; only proportions matter.` };
    fields.pattern = {
      choices: [...asItIs, { value: 'random', label: 'Scattered' }, { value: 'sequential', label: 'From end to end' }],
    };
    fields.givesUp = {
      choices: [
        { value: '', label: 'As it is' },
        { value: 'true', label: 'Yes, before writes fail' },
        { value: 'false', label: 'No' },
      ],
      says: 'The newest, and what is locked, held or made by hand, stays in any case.',
    };
    return { fields };
  },
};
