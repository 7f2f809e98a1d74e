import { z } from 'zod';
import { type Pool, type Replication, type SiteLink, type Volume } from '../estate/entities';
import { type EstateView } from '../estate/estate';
import { byName, draftText } from '../operation/draft';
import { folded, pick, such } from '../operation/form';
import { lookUp, type Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { type Choice, type Draft, type Foretold } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { writingOf } from '../copies/writing';
import { largestGap } from '../protect/due';
import { parseSpan } from '../protect/plan-create';
import { draftProtected } from '../protect/subject';
import { formatDuration, MINUTE, SECOND, type Milliseconds } from '../units/duration';
import { formatRate, parseRate } from '../units/rate';
import { USUAL_RATIO } from './choices';
import { needOfLine, shareOf } from './planner';
import { hourWords } from '../units/week';
import { lineRate } from './line';
import { reserveFields, reserveForetold, reserveParams } from './reserve';

export const USUAL_INTERVAL = 5 * MINUTE;

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
  imagesDaily: z.coerce
    .number()
    .int()
    .min(0)
    .max(400)
    .optional()
    .describe('Days of which the target keeps the first image beside these; 0 for none'),
  weight: z.coerce.number().positive().max(1000).optional().describe('Its share of the link against the others'),
  tier: z.coerce.number().int().min(1).max(9).optional().describe('In which turn it comes back after a disaster'),
  goal: z.string().optional().describe('Within which time it is to be back, such as 30 min; none promises nothing'),
  cap: z.string().optional().describe('The most it takes of the link, such as 50 MiB/s; none for no limit'),
  ...reserveParams,
};
export const paceFields = {
  rpo: such('Loses at most', '10 min'),
  interval: such('Every', '5 min'),
  plan: folded(pick('With plan')),
  images: folded('Images kept there'),
  imagesDaily: folded('Of each day one, for days'),
  weight: folded('Share of the link'),
  cap: folded(such('At most', '50 MiB/s')),
  goal: folded(such('Back within', '30 min')),
  tier: folded('Comes back in turn'),
  ...reserveFields,
};

export interface Pace {
  interval?: Milliseconds;
  plan?: string | null;
  rpo?: Milliseconds | null;
  images?: number;
  imagesDaily?: number;
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
  if (p.imagesDaily !== undefined) said.imagesDaily = p.imagesDaily;
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

/** What is foretold of a line under these volumes, in a sentence. */
export function lineWords(
  view: EstateView,
  volumes: readonly Volume[],
  link: SiteLink,
  { interval, rpo, weight }: { interval: Milliseconds; rpo: Milliseconds | null; weight: number },
  { own = null, to = null }: { own?: Replication | null; to?: string | null } = {},
): { says: string; holds: boolean } {
  const need = needOfLine(writingOf(view, volumes), { interval, rpo, wireRatio: USUAL_RATIO });
  const arrays = new Set([...volumes.map(({ array }) => array), ...(to === null ? [] : [to])]);
  const share = shareOf(view, link, weight, own, own ? undefined : [...arrays]);
  const rate = (bytes: number) => formatRate(Math.round(bytes));
  if (need.bytesPerS === null)
    return {
      says: `Copying every ${formatDuration(interval)} leaves no time to send within ${formatDuration(rpo ?? interval)}.`,
      holds: false,
    };
  const holds = need.bytesPerS <= share.bytesPerS;
  const has = share.array === null ? 'has' : `${view.table('array').get(share.array)!.name} leaves it`;
  const promise = rpo === null ? 'To keep up' : `To lose at most ${formatDuration(rpo)}`;
  return {
    says: `${promise} it needs ${rate(need.bytesPerS)} at its busiest (${hourWords(need.hour)}) and ${has} ${rate(share.bytesPerS)}${holds ? '' : ': it will fall behind'}.`,
    holds,
  };
}

/** What the fields of how often and how fast say while they are filled in. */
export function paceForetold(
  view: EstateView,
  draft: Draft,
  given?: { volumes: readonly Volume[]; link: SiteLink; target: Pool },
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
  const figure = (field: string, otherwise: number) => Number(draftText(draft, field)) || otherwise;
  const array = lookUp(view, 'array', draftText(draft, 'to'));
  const target = given?.target ?? (array && lookUp(view, 'pool', draftText(draft, 'pool'), array.id));
  return {
    ...reserveForetold(
      view,
      { sourceReserve: figure('sourceReserve', 0), targetReserve: figure('targetReserve', 0) },
      { volumes, interval, images: figure('images', 1), imagesDaily: figure('imagesDaily', 0), target },
    ),
    rpo: {
      says:
        link && volumes.length > 0
          ? lineWords(view, volumes, link, { interval, rpo, weight }, { to: given?.target.array ?? array?.id ?? null })
              .says
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
    imagesDaily: { says: 'The first of each day UTC, soon after midnight, each for so many days.' },
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
