import { askReserves } from './reserve';
import { z } from 'zod';
import { shownBytes } from '../copies/parts';
import { changed, created, type Effect } from '../estate/effects';
import { rowOf } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { poolOf, siteOf } from '../estate/relations';
import { draftText } from '../operation/draft';
import { folded, pick, several } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Draft, type Foretold, type OperationType } from '../operation/operation';
import { namedFields, namedParams } from '../protect/named';
import { askProtected, draftProtected, protectedFields } from '../protect/subject';
import { formatBytes } from '../units/bytes';
import { counted, someOf } from '../units/counted';
import { formatDuration, SECOND } from '../units/duration';
import { siteLinkChoices } from './link-operations';
import { shareOf } from './planner';
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
import {
  askOnto,
  askPartners,
  askSides,
  madeTwins,
  ontoChoices,
  refuseSeedless,
  targetForetold,
  askTargetRoom,
} from './target-ask';
import { flag } from '../operation/params';
import { lineWords, modeChoices, paceFields, paceForetold, paceParams, readPace, USUAL_INTERVAL } from './pace';
import { USUAL_RATIO } from './choices';

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
    const need = subject.volumes.reduce((sum, volume) => sum + shownBytes(volume), 0);
    const there = (onto ?? []).reduce((sum, volume) => sum + view.occupancy.allocated(volume.id) * pool.extentSize, 0);
    askTargetRoom(view, asks, pool, { need, what: 'the first copy', there });
    const mirror = p.mode === 'sync' ? readMirror(asks, p, name ?? subject.name) : null;
    if (mirror) askMirror(view, asks, subject.volumes, link, mirror, name ?? subject.name);
    const kept = mirror
      ? undefined
      : askReserves(view, asks, p, { source: poolOf(view, subject.volumes[0]!), target: pool });
    if (asks.refusals.length > 0 || name === undefined) return refused(asks.refusals.slice(0, 4));
    const overlay = new Overlay(view);
    // What is carried lies as it is.
    const { twins, effects } = onto
      ? {
          twins: onto,
          effects: onto
            .filter(({ reduction }) => reduction)
            .map((volume): Effect => changed('volume', volume, { reduction: false })),
        }
      : madeTwins(overlay, asks, subject.volumes, { pool, field: 'pool' }, context);
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
      imagesDaily = 0,
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
      imagesDaily,
      ...(kept ?? {}),
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
      ? mirrorWords(view, subject.volumes, link)
      : lineWords(view, subject.volumes, link, { interval, rpo, weight }, { to: array.id }).says;
    overlay.apply([created('replication', row)]);
    const sending = cutSource(overlay, row, context.now);
    const share = Math.max(1, shareOf(overlay, link, weight, row).bytesPerS);
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
          ? mirrorWords(view, volumes, link)
          : 'A mirror loses nothing, and costs the way to each write.',
    },
    ...mirrorForetold(view, draft, volumes, link),
  };
}

function sideFields(view: EstateView, draft: Draft): Foretold['fields'] {
  const subject = draftProtected(view, draft);
  const to = lookUp(view, 'array', draftText(draft, 'to'));
  return {
    ...targetForetold(view, draft, subject?.volumes ?? [], 'The first copy'),
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
