import { poolOf } from '../estate/relations';
import { askReserves } from './reserve';
import { z } from 'zod';
import { changed } from '../estate/effects';
import type { Replication, SiteLink, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { Inquiry } from '../operation/inquiry';
import { subjectOf } from '../operation/refusal';
import { counted } from '../units/counted';
import { byName } from '../operation/draft';
import { folded, pick } from '../operation/form';
import { planned, refused, type Draft, type Foretold, type OperationType } from '../operation/operation';
import { record } from '../operation/record';
import { formatDuration, SECOND } from '../units/duration';
import { formatRate } from '../units/rate';
import {
  askReplication,
  askRole,
  draftReplication,
  replicationChoices,
  riskWords,
  stateWords,
  refuseStretched,
} from './ask';
import { isMirrored, isFenced } from '../copies/replica';
import { mirrored, pitOf } from './carry';
import { nextTick } from './pass';
import { siteLinkChoices } from './link-operations';
import { askMirror, mirrorFields, mirrorForetold, mirrorParams, mirrorWords, readBudget } from './mirror-terms';
import { lineWords, modeChoices, paceFields, paceForetold, paceParams, readPace } from './pace';
import { USUAL_RATIO } from './choices';
import { roleFields, sidesOf } from './sides';

// The log of a mirror is made with it: another size is another pair of volumes.
const { log: _log, ...mirrorTerms } = mirrorParams;
const { log: _logField, ...mirrorTermFields } = mirrorFields;

const configureSchema = z.object({
  replication: z.string(),
  newName: z.string().optional(),
  link: z.string().optional(),
  mode: z.enum(['async', 'sync']).optional().describe('Again and again, or each write before it is acknowledged'),
  ...paceParams,
  ...mirrorTerms,
});

function moved(before: Replication, after: Replication): string[] {
  const said: string[] = [];
  if (after.name !== before.name) said.push(`is called ${after.name}`);
  if (after.plan !== before.plan) said.push(after.plan === null ? 'goes by its own rhythm' : 'is cut with its plan');
  if (after.interval !== before.interval) said.push(`is cut every ${formatDuration(after.interval)}`);
  if (after.rpo !== before.rpo)
    said.push(after.rpo === null ? 'promises nothing' : `loses at most ${formatDuration(after.rpo)}`);
  if (after.images !== before.images) said.push(`keeps ${after.images} images there`);
  if (after.imagesDaily !== before.imagesDaily)
    said.push(
      after.imagesDaily === 0
        ? 'keeps no image of each day'
        : `keeps one of each of ${counted(after.imagesDaily, 'day')}`,
    );
  if (after.weight !== before.weight) said.push(`has the share ${after.weight} of its link`);
  if (after.cap !== before.cap)
    said.push(after.cap === null ? 'has no limit' : `takes at most ${formatRate(after.cap)}`);
  if (after.mode !== before.mode) said.push(after.mode === 'sync' ? 'mirrors each write' : 'is copied again and again');
  if (after.onLoss !== before.onLoss)
    said.push(after.onLoss === 'fence' ? 'lets hosts wait for a lost side' : 'lets hosts go on alone');
  if (after.order !== before.order)
    said.push(after.order === 'kept' ? 'keeps the order of writes' : 'brings each volume back by itself');
  if (after.budget !== before.budget)
    said.push(after.budget === null ? 'may take any time for a write' : `may add ${after.budget} ms to a write`);
  if (after.tier !== before.tier) said.push(`comes back in turn ${after.tier}`);
  if (after.goal !== before.goal)
    said.push(after.goal === null ? 'may be away for any time' : `is to be back within ${formatDuration(after.goal)}`);
  if (after.link !== before.link) said.push('goes over another link');
  if (after.reserves.join() !== before.reserves.join())
    said.push(
      after.reserves.length === 0
        ? 'keeps nothing back'
        : `keeps ${after.reserves.join(' % and ')} % of its pools back`,
    );
  return said;
}

export const replicationConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'replication.configure',
  verb: 'Change a replication',
  summary: 'How often it is cut, what may be lost, its share of the link. What is not named stays.',
  schema: configureSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      replication: pick('Replication'),
      mode: folded('How'),
      ...paceFields,
      ...mirrorTermFields,
      link: folded(pick('Over link')),
      newName: folded('New name'),
    },
  },
  title: (p) => `Change replication ${p.replication}`,
  units: (p) => [p],
  plan(view, p, { now, newId }) {
    const { asks, row } = askReplication(view, p.replication);
    if (!row || refuseStretched(asks, row)) return refused(asks.refusals);
    const pace = readPace(view, asks, p, { name: row.name, now });
    if (p.rpo && !p.interval && !pace.plan) delete pace.interval;
    const name = p.newName ? asks.freeName('replication', p.newName, undefined, 'newName', row) : row.name;
    const link = p.link ? asks.find('siteLink', p.link, 'link') : view.table('siteLink').get(row.link);
    const terms = readTerms(asks, row, p);
    if (asks.refusals.length > 0 || name === undefined || !link) return refused(asks.refusals);
    const { source } = sidesOf(view, row);
    // While hosts of a lost mirror waited, nothing was written: what stands at both sides is of now.
    const along = row.mode === 'sync' && (isMirrored(row) || isFenced(row)) ? { pit: pitOf(row, now) } : {};
    const turned =
      terms.mode === undefined || terms.mode === row.mode
        ? {}
        : terms.mode === 'sync'
          ? {
              rpo: null,
              wireRatio: 1,
              ...(row.state === 'protected' ? { state: 'copying' as const, nextAt: now } : {}),
            }
          : { nextAt: now + (pace.interval ?? row.interval), wireRatio: USUAL_RATIO };
    const paced = pace.plan === undefined ? {} : { nextAt: nextTick(view, { ...row, ...pace }, now) };
    const [from, into] = [source[0]!, sidesOf(view, row).target[0]!].map((volume) => poolOf(view, volume));
    const kept = askReserves(view, asks, p, { source: from!, target: into!, before: row });
    const fields = { ...pace, ...terms, ...(kept ?? {}), ...along, ...paced, ...turned, name, link: link.id };
    const after: Replication = { ...row, ...fields };
    if (after.mode === 'sync' && (p.mode || p.link || p.budget))
      askMirror(view, asks, source, link, { fields: after, log: null }, after.name);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: record,
      title: `${row.name} ${moved(row, after).join(', ') || 'stays as it is'}`,
      takes: SECOND,
      effects: [...mirrored(view, row, now, newId).effects, changed('replication', row, fields)],
      notes: [
        after.mode === 'sync'
          ? mirrorWords(view, source, link)
          : lineWords(view, source, link, after, { own: after }).says,
      ],
    });
  },
  foretell(view, draft) {
    const row = draftReplication(view, draft);
    const link = row && view.table('siteLink').get(row.link);
    return {
      fields: {
        ...paceForetold(
          view,
          draft,
          row && link
            ? { volumes: sidesOf(view, row).source, link, target: poolOf(view, sidesOf(view, row).target[0]!) }
            : undefined,
        ),
        ...mirrorTermsForetold(view, draft, row, link, row ? sidesOf(view, row).source : []),
        replication: {
          choices: replicationChoices(view),
          says: row
            ? `Every ${formatDuration(row.interval)}, ${row.rpo === null ? 'nothing is promised' : `at most ${formatDuration(row.rpo)} are lost`}.`
            : '',
        },
        plan: {
          choices: [
            { value: '', label: 'As it is' },
            { value: 'none', label: 'Its own rhythm' },
            ...[...view.table('plan').values()].sort(byName).map(({ name }) => ({ value: name, label: name })),
          ],
          says: 'Both sides then hold copies of the same instants.',
        },
        link: { choices: [{ value: '', label: 'As it is' }, ...siteLinkChoices(view)] },
        newName: { says: 'Left empty, the name stays.' },
      },
    };
  },
};

/** What is said of a mirror; what is not said is left out. */
function readTerms(
  asks: Inquiry,
  row: Replication,
  p: z.output<typeof configureSchema>,
): Partial<Pick<Replication, 'mode' | 'onLoss' | 'order' | 'budget'>> {
  const mode = p.mode ?? row.mode;
  if (mode === 'async' && (p.onLoss || p.order || p.budget))
    asks.refuse({
      code: 'replication-not-mirrored',
      field: p.onLoss ? 'onLoss' : p.order ? 'order' : 'budget',
      subject: subjectOf('replication', row),
      message: `${row.name} is copied again and again: no write waits for its other side.`,
      mend: 'Leave that out, or mirror each write.',
    });
  const budget = p.budget ? readBudget(asks, p.budget, row.name) : undefined;
  return {
    ...(p.mode ? { mode: p.mode } : {}),
    ...(p.onLoss ? { onLoss: p.onLoss } : {}),
    ...(p.order ? { order: p.order } : {}),
    ...(budget === undefined ? {} : { budget }),
  };
}

function mirrorTermsForetold(
  view: EstateView,
  draft: Draft,
  row: Replication | undefined,
  link: SiteLink | undefined,
  volumes: readonly Volume[],
): Foretold['fields'] {
  const { log: _logSays, ...fields } = mirrorForetold(view, draft, volumes, link);
  const asIs = { value: '', label: 'As it is' };
  return {
    ...fields,
    onLoss: { ...fields.onLoss!, choices: [asIs, ...fields.onLoss!.choices!] },
    order: { ...fields.order!, choices: [asIs, ...fields.order!.choices!] },
    mode: {
      choices: [asIs, ...modeChoices],
      says:
        row && link && volumes.length > 0
          ? mirrorWords(view, volumes, link)
          : 'A mirror loses nothing, and costs the way to each write.',
    },
  };
}

const nameSchema = z.object({ replication: z.string() });

/** Pausing and going on: one event each, nothing else. */
const turning = (
  event: 'pause' | 'resume',
  words: Pick<OperationType, 'kind' | 'verb' | 'summary'> & { title: string },
): OperationType<z.output<typeof nameSchema>> => ({
  ...words,
  schema: nameSchema,
  form: { columns: [3, 4, 7], fields: { replication: pick('Replication') } },
  title: (p) => `${words.title} ${p.replication}`,
  units: (p) => [p],
  plan(view, p, { now, newId }) {
    const { asks, row } = askReplication(view, p.replication);
    const roles = row && askRole(view, asks, row, { e: event }, now);
    if (!row || !roles) return refused(asks.refusals);
    return planned({
      device: record,
      title: `${words.title} ${row.name}`,
      takes: SECOND,
      effects: [
        ...mirrored(view, row, now, newId).effects,
        changed('replication', row, {
          ...roleFields(roles),
          pit: isMirrored(row) ? now : row.pit,
          since: now,
          nextAt: now,
          carrying: null,
          reason: event === 'pause' ? 'somebody paused it' : '',
        }),
      ],
      notes: event === 'pause' && row.carrying ? ['What is under way is broken off, and sent with the next cut.'] : [],
    });
  },
  foretell(view, draft, { now }) {
    const row = draftReplication(view, draft);
    return {
      fields: {
        replication: {
          choices: replicationChoices(view, (one) =>
            (event === 'resume') === (one.state === 'paused') ? undefined : stateWords[one.state],
          ),
          says: row ? riskWords(view, row, now) : '',
        },
      },
    };
  },
});

export const replicationPause: OperationType<z.output<typeof nameSchema>> = turning('pause', {
  kind: 'replication.pause',
  verb: 'Pause a replication',
  summary: 'Nothing is cut and sent until it goes on; what changes meanwhile is remembered.',
  title: 'Pause',
});

export const replicationResume: OperationType<z.output<typeof nameSchema>> = turning('resume', {
  kind: 'replication.resume',
  verb: 'Let a replication go on',
  summary: 'Sends what has changed meanwhile, and goes on in its rhythm.',
  title: 'Let go on:',
});
