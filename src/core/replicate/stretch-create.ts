import { pauseWords } from '../stretch/told';
import { pauseOf } from './stretch-words';
import { z } from 'zod';
import { shownBytes } from '../copies/parts';
import { created } from '../estate/effects';
import { rowOf, type Site } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, siteOf } from '../estate/relations';
import { draftText } from '../operation/draft';
import { folded, pick, such } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Draft, type Foretold, type OperationType } from '../operation/operation';
import { namedFields, namedParams } from '../protect/named';
import { askProtected, draftProtected, protectedFields, subjectOfProtected, type Protected } from '../protect/subject';
import { beginning } from '../stretch/course';
import { formatBytes } from '../units/bytes';
import { counted, someOf } from '../units/counted';
import { formatDuration, SECOND } from '../units/duration';
import { cutSource } from './carry';
import { siteLinkChoices } from './link-operations';
import { askMirror, mirrorWords, readMirror } from './mirror-terms';
import { shareOf } from './planner';
import { askSite, askWitness } from './stretch-ask';
import { stretchedFields } from './stretched';
import { askPartners, askSides, madeTwins, targetForetold, askTargetRoom } from './target-ask';
import { witnessChoices } from './witness-operations';
import type { Leg } from '../copies/legs';

const schema = z.object({
  ...namedParams,
  to: z.string().describe('The array at the other site'),
  pool: z.string().describe('The pool there that takes the second leg'),
  link: z.string().describe('The line over which every write goes'),
  witness: z.string().describe('Who decides which site goes on when they do not see each other'),
  preferred: z.string().optional().describe('The site that goes on first; without it the one where the volumes are'),
  budget: z.string().optional().describe('Milliseconds that it may add to a write; none for any'),
  name: z.string().optional().describe('Without it the name of what is stretched'),
});
type Params = z.output<typeof schema>;

/** How the second leg of a volume is called: both bear one identity, and people tell them apart by their names. */
export const legName = (name: string): string => `${name.slice(0, 54)}-leg`;

/** All volumes must stand at one array: there are two places, not three. */
function askOneArray(view: EstateView, asks: Inquiry, subject: Protected): Site {
  const arrays = new Set(subject.volumes.map(({ array }) => array));
  if (arrays.size > 1)
    asks.refuse({
      code: 'stretched-several-arrays',
      field: 'workload',
      subject: subjectOfProtected(subject),
      message: `The volumes of ${subject.name} stand at ${someOf([...arrays].map((id) => view.table('array').get(id)!.name))}.`,
      mend: 'Stretch them by themselves.',
    });
  return siteOf(view, arrayOf(view, subject.volumes[0]!));
}

export const stretchCreate: OperationType<Params> = {
  kind: 'stretch.create',
  verb: 'Stretch over two sites',
  summary:
    'Adds a second leg at another site: one identity that hosts read and write at both, with a witness that decides who goes on alone. Hosts stay at work.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      ...namedFields,
      to: pick('To array'),
      pool: pick('Its pool'),
      link: pick('Over link'),
      witness: pick('Witness'),
      preferred: pick('Preferred site'),
      budget: folded(such('May add to a write, ms', '5')),
      name: folded('Name'),
    },
  },
  title: (p) => `Stretch ${p.workload || `${p.array} ${p.volume}`} to ${p.to}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const subject = askProtected(view, asks, p);
    const array = asks.find('array', p.to, 'to');
    const pool = array && asks.find('pool', p.pool, 'pool', array);
    const link = asks.find('siteLink', p.link, 'link');
    if (!subject || !array || !pool || !link) return refused(asks.refusals);
    const name = asks.freeName('replication', p.name || subject.name) ?? subject.name;
    const [here, there] = [askOneArray(view, asks, subject), siteOf(view, array)];
    askSides(view, asks, subject, array, link);
    const witness = askWitness(view, asks, { text: p.witness, sites: [here, there] });
    const preferred = p.preferred
      ? askSite(asks, p.preferred, 'preferred', { A: here, B: there }, { kind: 'replication', name })
      : 'A';
    if (asks.refusals.length === 0) askPartners(view, asks, subject, { array, pool, now: context.now });
    const need = subject.volumes.reduce((sum, volume) => sum + shownBytes(volume), 0);
    askTargetRoom(view, asks, pool, { need, what: 'the second leg' });
    const mirror = readMirror(asks, { budget: p.budget }, name);
    askMirror(view, asks, subject.volumes, link, mirror, name);
    if (asks.refusals.length > 0 || !witness || !preferred) return refused(asks.refusals.slice(0, 4));
    const overlay = new Overlay(view);
    const { twins, effects } = madeTwins(
      overlay,
      asks,
      subject.volumes,
      { pool, field: 'pool', leg: legName },
      context,
    );
    if (asks.refusals.length > 0) return refused(asks.refusals.slice(0, 1));
    const row = rowOf('replication', {
      id: context.newId('replication'),
      name,
      workload: subject.workload?.id ?? null,
      primaries: subject.volumes.map(({ id }) => id),
      secondaries: twins.map(({ id }) => id),
      link: link.id,
      mode: 'sync',
      budget: mirror.fields.budget,
      interval: SECOND,
      wireRatio: 1,
      state: 'copying',
      linkState: link.state,
      nextAt: context.now,
      startedAt: context.now,
      since: context.now,
      witness: witness.id,
      stretch: beginning(preferred, 'A'),
    });
    overlay.apply([created('replication', row)]);
    // What of its surroundings is down already counts from the beginning.
    const begun = stretchedFields(overlay, row as Leg['row'], context.now)?.fields ?? {};
    const sending = cutSource(overlay, row, context.now);
    const took =
      sending.from -
      context.now +
      (sending.wire / Math.max(1, shareOf(view, link, 1, null, [subject.volumes[0]!.array, array.id]).bytesPerS)) *
        SECOND;
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Stretch ${subject.name} to ${array.name}, ${there.name}: ${counted(twins.length, 'second leg')}, ${witness.name} decides`,
      takes: 2 * SECOND,
      effects: [...effects, created('replication', { ...row, ...begun })],
      notes: [
        `The second leg takes in ${formatBytes(need, 'used')}, in about ${formatDuration(Math.max(SECOND, Math.round(took / SECOND) * SECOND))}; its paths come up when it is whole.`,
        mirrorWords(view, subject.volumes, link),
        `If ${here.name} and ${there.name} lose each other, ${preferred === 'A' ? here.name : there.name} goes on after ${pauseWords(pauseOf(overlay, row as Leg['row'], preferred))}, ${preferred === 'A' ? there.name : here.name} falls silent.`,
        `Map ${someOf(twins.map((twin) => twin.name))} under the same LUN to hosts that are to reach both sites.`,
      ],
    });
  },
  foretell(view, draft) {
    return { fields: { ...protectedFields(view, draft), ...sideFields(view, draft) } };
  },
};

function sideFields(view: EstateView, draft: Draft): Foretold['fields'] {
  const subject = draftProtected(view, draft);
  const volumes = subject?.volumes ?? [];
  const here = volumes[0] && siteOf(view, arrayOf(view, volumes[0]));
  const to = lookUp(view, 'array', draftText(draft, 'to'));
  const there = to && siteOf(view, to);
  const link = lookUp(view, 'siteLink', draftText(draft, 'link'));
  const places = [here, there].flatMap((site) => (site ? [{ value: site.name, label: site.name }] : []));
  return {
    ...targetForetold(view, draft, volumes, 'The second leg'),
    link: {
      choices: siteLinkChoices(view),
      says:
        link && volumes.length > 0
          ? mirrorWords(view, volumes, link)
          : 'Every write goes over it before it is acknowledged.',
    },
    witness: { choices: witnessChoices(view), says: 'At a third place, seen by both sites.' },
    preferred: {
      choices: places,
      suggested: here?.name ?? '',
      says: 'Goes on first when both sites live and do not see each other.',
    },
    budget: { says: 'What hosts may be asked to wait; beyond it nothing is stretched.' },
    name: { says: subject ? `Without it ${subject.name}.` : '' },
  };
}
