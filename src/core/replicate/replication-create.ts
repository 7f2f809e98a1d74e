import { z } from 'zod';
import { shownBytes } from '../copies/parts';
import { changed, created, type Effect } from '../estate/effects';
import { rowOf, type SiteLink, type Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, poolOf, siteOf } from '../estate/relations';
import { arrayChoices, byName, draftText } from '../operation/draft';
import { folded, pick, several, such } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type Choice, type Draft, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { availableExtents } from '../pool/usage';
import { namedFields, namedParams } from '../protect/named';
import { largestGap } from '../protect/due';
import { parseSpan } from '../protect/plan-create';
import { askProtected, draftProtected, protectedFields } from '../protect/subject';
import { formatBytes } from '../units/bytes';
import { counted, someOf } from '../units/counted';
import { formatDuration, MINUTE, SECOND, type Milliseconds } from '../units/duration';
import { formatRate, parseRate } from '../units/rate';
import { subscriptionRefusal } from '../volume/create';
import { siteLinkChoices } from './link-operations';
import { hourWords, needOfLine, shareOf } from './planner';
import {
  mirrorParams,
  mirrorFields,
  mirrorForetold,
  readMirror,
  askMirror,
  logVolumes,
  mirrorWords,
} from './mirror-terms';
import { cutSource } from './carry';
import { firstCopyMethods, type FirstCopyMethod } from './first-copy';
import { askOnto, askPartners, askSides, ontoChoices, refuseSeedless, twinOf } from './target-ask';
import { flag } from '../operation/params';
import { lineRate } from './line';

const USUAL_INTERVAL = 5 * MINUTE;
export const USUAL_RATIO = 0.7;

export const modeChoices: Choice[] = [
  { value: 'async', label: 'Again and again' },
  { value: 'sync', label: 'Each write, before it is acknowledged' },
];

export const paceParams = {
  plan: z
    .string()
    .optional()
    .describe('Cut whenever this plan makes copies, at the same instant; none for its own rhythm'),
  interval: z.string().optional().describe('From cut to cut, such as 5 min; without it half of what may be lost'),
  rpo: z.string().optional().describe('How much of the newest work may be lost, such as 10 min; none promises nothing'),
  images: z.coerce.number().int().min(0).max(64).optional().describe('Points in time that the target keeps'),
  weight: z.coerce.number().positive().max(1000).optional().describe('Its share of the link against the others'),
  tier: z.coerce.number().int().min(1).max(9).optional().describe('In which turn it comes back after a disaster'),
  goal: z.string().optional().describe('Within which time it is to be back, such as 30 min; none promises nothing'),
  cap: z.string().optional().describe('The most it takes of the link, such as 50 MiB/s; none for no limit'),
};
export const paceFields = {
  rpo: such('Loses at most', '10 min'),
  interval: such('Every', '5 min'),
  plan: folded(pick('With plan')),
  images: folded('Images kept there'),
  weight: folded('Share of the link'),
  cap: folded(such('At most', '50 MiB/s')),
  goal: folded(such('Back within', '30 min')),
  tier: folded('Comes back in turn'),
};

export interface Pace {
  interval?: Milliseconds;
  plan?: string | null;
  rpo?: Milliseconds | null;
  images?: number;
  weight?: number;
  cap?: number | null;
  tier?: number;
  goal?: Milliseconds | null;
}

/** What is said of how often and how fast; what is not said is left out. */
export function readPace(
  view: EstateView,
  asks: Inquiry,
  p: z.output<z.ZodObject<typeof paceParams>>,
  { name, now }: { name: string; now: Milliseconds },
): Pace {
  const subject = { kind: 'replication', name } as const;
  const said: Pace = {};
  const span = (text: string, field: string) => asks.value(parseSpan(text), field, subject);
  if (p.rpo) {
    const rpo = span(p.rpo, 'rpo');
    if (rpo !== undefined) said.rpo = rpo;
  }
  if (p.interval) {
    const interval = span(p.interval, 'interval');
    if (typeof interval === 'number' && interval >= SECOND) said.interval = interval;
    else if (interval !== undefined)
      asks.refuse({
        code: 'interval-too-short',
        field: 'interval',
        subject,
        message: `${name} cannot be cut without a pause.`,
        mend: 'Write an interval such as 5 min; 30 s is the shortest that makes sense.',
      });
  } else if (said.rpo) said.interval = said.rpo / 2;
  if (p.plan) {
    const plan = p.plan.trim().toLowerCase() === 'none' ? null : asks.find('plan', p.plan, 'plan');
    if (plan !== undefined) said.plan = plan?.id ?? null;
    // What comes between two of its runs is what a cycle carries.
    const gap = plan ? largestGap(plan, now) : null;
    if (gap) said.interval = gap.span;
    if (plan && !gap)
      asks.refuse({
        code: 'plan-never-runs',
        field: 'plan',
        subject: subjectOf('plan', plan),
        message: `${plan.name} makes no copies in the year to come.`,
        mend: 'Give it a schedule first.',
        offer: nextStep(`Give ${plan.name} a schedule`, 'plan.schedule', { plan: plan.name }),
      });
  }
  if (p.images !== undefined) said.images = p.images;
  if (p.weight !== undefined) said.weight = p.weight;
  if (p.tier !== undefined) said.tier = p.tier;
  if (p.goal) {
    const goal = p.goal.trim().toLowerCase() === 'none' ? null : span(p.goal, 'goal');
    if (goal !== undefined) said.goal = goal;
  }
  if (p.cap) {
    if (p.cap.trim().toLowerCase() === 'none') said.cap = null;
    else {
      const cap = asks.value(parseRate(p.cap), 'cap', subject);
      if (cap !== undefined) said.cap = cap;
    }
  }
  return said;
}

const schema = z.object({
  ...namedParams,
  to: z.string().describe('The array at the other site'),
  pool: z.string().optional().describe('The pool there that takes the copies'),
  onto: z
    .array(z.string())
    .optional()
    .describe('Instead: volumes that are there, one for each in the order of their names'),
  first: z.enum(firstCopyMethods).default('network').describe('How the first copy goes'),
  overwrite: flag.default(false).describe('What the volumes there hold may be overwritten'),
  link: z.string(),
  name: z.string().optional().describe('Without it the name of what is copied'),
  mode: z.enum(['async', 'sync']).default('async').describe('Again and again, or each write before it is acknowledged'),
  ...paceParams,
  ...mirrorParams,
});
type Params = z.output<typeof schema>;

/** What is foretold of a line under these volumes, in a sentence. */
export function lineWords(
  view: EstateView,
  volumes: readonly Volume[],
  link: SiteLink,
  { interval, rpo, weight }: { interval: Milliseconds; rpo: Milliseconds | null; weight: number },
): { says: string; holds: boolean } {
  const need = needOfLine(volumes, { interval, rpo, wireRatio: USUAL_RATIO });
  const share = shareOf(view, link, weight);
  const rate = (bytes: number) => formatRate(Math.round(bytes));
  if (need.bytesPerS === null)
    return {
      says: `Copying every ${formatDuration(interval)} leaves no time to send within ${formatDuration(rpo ?? interval)}.`,
      holds: false,
    };
  const holds = need.bytesPerS <= share;
  const promise = rpo === null ? 'To keep up' : `To lose at most ${formatDuration(rpo)}`;
  return {
    says: `${promise} it needs ${rate(need.bytesPerS)} at its busiest (${hourWords(need.hour)}) and has ${rate(share)}${holds ? '' : ': it will fall behind'}.`,
    holds,
  };
}

const firstWords = (method: FirstCopyMethod, link: string): string =>
  ({
    network: `over ${link}`,
    seeded: `to compare what is there over ${link}`,
    shipped: 'to media, on the road and from them',
  })[method];

export const replicationCreate: OperationType<Params> = {
  kind: 'replication.create',
  verb: 'Copy to another site',
  summary:
    'Volumes of their own at another site take what changes, again and again, cut at one instant over a workload. The first copy begins at once.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      ...namedFields,
      to: pick('To array'),
      pool: pick('Its pool'),
      link: pick('Over link'),
      mode: 'How',
      ...paceFields,
      first: folded('First copy'),
      onto: folded(several('Onto volumes there')),
      overwrite: folded({ label: 'What they hold may go', control: 'switch' }),
      ...mirrorFields,
      name: folded('Name'),
    },
  },
  title: (p) => `Copy ${p.workload || `${p.array} ${p.volume}`} to ${p.to}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const subject = askProtected(view, asks, p);
    const array = asks.find('array', p.to, 'to');
    const wanted = p.onto?.some((text) => text.trim() !== '') ?? false;
    const onto = wanted && subject && array ? askOnto(view, asks, subject, array, p) : null;
    const pool = onto?.[0]
      ? poolOf(view, onto[0])
      : array && !wanted
        ? asks.find('pool', p.pool ?? '', 'pool', array)
        : undefined;
    const link = asks.find('siteLink', p.link, 'link');
    if (!subject || !array || !pool || !link) return refused(asks.refusals);
    if (p.first === 'seeded' && !onto) refuseSeedless(asks, subject);
    const name = asks.freeName('replication', p.name || subject.name);
    const pace = readPace(view, asks, p, { name: name ?? subject.name, now: context.now });
    askSides(view, asks, subject, array, link);
    if (asks.refusals.length === 0) askPartners(view, asks, subject, { array, pool, now: context.now });
    if (pool.direct)
      asks.refuse({
        code: 'copies-need-pool',
        field: 'pool',
        subject: subjectOf('pool', pool),
        message: `${pool.name} is a RAID group by itself; it takes no thin copies.`,
        mend: 'Choose a pool.',
      });
    const need = subject.volumes.reduce((sum, volume) => sum + shownBytes(volume), 0);
    const left = availableExtents(view, pool) * pool.extentSize;
    const there = (onto ?? []).reduce((sum, volume) => sum + view.occupancy.allocated(volume.id) * pool.extentSize, 0);
    if (need > left + there)
      asks.refuse({
        code: 'replication-target-full',
        field: 'pool',
        subject: subjectOf('pool', pool),
        message: `${pool.name} has ${formatBytes(left)} left; the first copy takes ${formatBytes(need, 'used')}.`,
        mend: `Extend ${pool.name}, or choose another pool.`,
        offer: nextStep(`Extend ${pool.name}`, 'pool.extend', { array: array.name, name: pool.name }),
      });
    const mirror = p.mode === 'sync' ? readMirror(asks, p, name ?? subject.name) : null;
    if (mirror) askMirror(view, asks, subject.volumes, link, mirror, name ?? subject.name);
    if (asks.refusals.length > 0 || name === undefined) return refused(asks.refusals.slice(0, 4));
    const overlay = new Overlay(view);
    const effects: Effect[] = [];
    const twins = subject.volumes.map((volume, k) => {
      if (onto) {
        // What is carried lies as it is.
        if (onto[k]!.reduction) effects.push(changed('volume', onto[k]!, { reduction: false }));
        return onto[k]!;
      }
      const free = (text: string) => !lookUp(overlay, 'volume', text, array.id);
      // Never the same name: it is by names that people tell the two sides apart.
      const stem = `${volume.name.slice(0, 54)}-copy`;
      const text = free(stem) ? stem : `${stem}-${context.newId('volume').slice(-4)}`;
      const limit = subscriptionRefusal(overlay, pool, volume.size);
      if (limit) asks.refuse({ ...limit, field: 'pool' });
      const twin = twinOf(overlay, volume, pool, text, context);
      const made = [created('volume', twin)];
      overlay.apply(made);
      effects.push(...made);
      return twin;
    });
    const logs = mirror?.log
      ? logVolumes(overlay, asks, { name, size: mirror.log, pools: [poolOf(view, subject.volumes[0]!), pool] }, context)
      : [];
    if (asks.refusals.length > 0) return refused(asks.refusals.slice(0, 1));
    effects.push(...logs.flatMap((log) => log.effects));
    const {
      interval = USUAL_INTERVAL,
      plan = null,
      rpo = null,
      images = 1,
      weight = 1,
      cap = null,
      tier = 1,
      goal = null,
    } = pace;
    const row = rowOf('replication', {
      id: context.newId('replication'),
      name,
      workload: subject.workload?.id ?? null,
      primaries: subject.volumes.map(({ id }) => id),
      secondaries: twins.map(({ id }) => id),
      link: link.id,
      mode: p.mode,
      ...(mirror?.fields ?? {}),
      first: p.first,
      logs: logs.map(({ id }) => id),
      interval,
      plan: mirror ? null : plan,
      rpo: mirror ? null : rpo,
      images,
      weight,
      cap,
      tier,
      goal,
      // What is mirrored goes as it is written: there is no time to press it.
      wireRatio: mirror ? 1 : USUAL_RATIO,
      state: 'copying',
      linkState: link.state,
      nextAt: context.now,
      startedAt: context.now,
      since: context.now,
    });
    const says = mirror
      ? mirrorWords(subject.volumes, link)
      : lineWords(view, subject.volumes, link, { interval, rpo, weight }).says;
    overlay.apply([created('replication', row)]);
    const sending = cutSource(overlay, row, context.now);
    const share = Math.max(1, shareOf(view, link, weight));
    const took = sending.from - context.now + (sending.wire / share) * SECOND;
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Copy ${subject.name} to ${array.name}, ${siteOf(view, array).name}: ${counted(twins.length, 'volume')}, ${mirror ? 'each write mirrored' : `every ${formatDuration(interval)}`}`,
      takes: 2 * SECOND,
      effects: [...effects, created('replication', row)],
      notes: [
        `The first copy of ${formatBytes(need, 'used')} takes about ${formatDuration(Math.max(SECOND, Math.round(took / SECOND) * SECOND))} ${firstWords(p.first, link.name)}, ${formatBytes(Math.round(sending.wire), 'used')} sent.`,
        says,
        `${someOf(twins.map((twin) => twin.name))} ${twins.length === 1 ? 'is' : 'are'} closed to hosts until ${array.name} takes over.`,
      ],
    });
  },
  foretell(view, draft) {
    return {
      fields: {
        ...protectedFields(view, draft),
        ...sideFields(view, draft),
        ...paceForetold(view, draft),
        ...modeForetold(view, draft),
      },
    };
  },
};

function modeForetold(view: EstateView, draft: Draft): Foretold['fields'] {
  const volumes = draftProtected(view, draft)?.volumes ?? [];
  const link = lookUp(view, 'siteLink', draftText(draft, 'link'));
  return {
    mode: {
      choices: modeChoices,
      suggested: 'async',
      says:
        link && volumes.length > 0
          ? mirrorWords(volumes, link)
          : 'A mirror loses nothing, and costs the way to each write.',
    },
    ...mirrorForetold(draft, volumes, link),
  };
}

function sideFields(view: EstateView, draft: Draft): Foretold['fields'] {
  const subject = draftProtected(view, draft);
  const sites = new Set((subject?.volumes ?? []).map((volume) => arrayOf(view, volume).site));
  const to = lookUp(view, 'array', draftText(draft, 'to'));
  const pool = to && lookUp(view, 'pool', draftText(draft, 'pool'), to.id);
  const need = (subject?.volumes ?? []).reduce((sum, volume) => sum + shownBytes(volume), 0);
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
              label: `${one.name}, ${formatBytes(availableExtents(view, one) * one.extentSize)} left`,
            }))
        : [],
      says: pool ? `The first copy takes ${formatBytes(need, 'used')} of it.` : '',
    },
    link: { choices: siteLinkChoices(view) },
    first: {
      choices: [
        { value: 'network', label: 'Over the line' },
        { value: 'seeded', label: 'Compared with what is there' },
        { value: 'shipped', label: 'Carried over on media' },
      ],
      suggested: 'network',
      says: 'Checksums of both sides are compared, and only what differs is sent; or nothing is, and media travel.',
    },
    onto: {
      choices: to && subject ? ontoChoices(view, to, subject) : [],
      says: 'As large as their sources, each in the order of names. Left empty, new ones are made.',
    },
    overwrite: { says: 'Only where volumes there hold something.' },
    name: { says: subject ? `Without it ${subject.name}.` : '' },
  };
}

/** What the fields of how often and how fast say while they are filled in. */
export function paceForetold(
  view: EstateView,
  draft: Draft,
  given?: { volumes: readonly Volume[]; link: SiteLink },
): Foretold['fields'] {
  const subject = given ? null : draftProtected(view, draft);
  const volumes = given?.volumes ?? subject?.volumes ?? [];
  const link = given?.link ?? lookUp(view, 'siteLink', draftText(draft, 'link'));
  const span = (field: string): Milliseconds | null => {
    const read = parseSpan(draftText(draft, field));
    return read.ok ? read.value : null;
  };
  const rpo = span('rpo');
  const interval = span('interval') ?? (rpo === null ? USUAL_INTERVAL : rpo / 2);
  const weight = Number(draftText(draft, 'weight')) || 1;
  return {
    rpo: {
      says:
        link && volumes.length > 0
          ? lineWords(view, volumes, link, { interval, rpo, weight }).says
          : 'What is promised; a finding tells when it is not kept.',
    },
    interval: { says: `Cut every ${formatDuration(interval)}, sent at once.` },
    plan: {
      choices: [
        { value: '', label: 'Its own rhythm' },
        ...[...view.table('plan').values()].sort(byName).map(({ name }) => ({ value: name, label: name })),
      ],
      says: 'Both sides then hold copies of the same instants.',
    },
    images: { says: 'Beside the newest: moments at the other site to which one can go back.' },
    weight: {
      says: link
        ? `Of ${formatRate(Math.round(lineRate(link).bytesPerS))} that ${link.name} brings through.`
        : 'Against the others on the link.',
    },
    cap: { says: 'Left empty it takes what the link gives.' },
    goal: { says: 'After a disaster; a drill tells whether it holds.' },
    tier: { says: 'Databases before what stands on them: those of turn 1 come first.' },
  };
}
