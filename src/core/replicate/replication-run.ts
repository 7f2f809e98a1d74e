import { z } from 'zod';
import { changed } from '../estate/effects';
import type { Replication } from '../estate/entities';
import { folded, pick } from '../operation/form';
import { planned, refused, type OperationType } from '../operation/operation';
import { formatDuration, SECOND } from '../units/duration';
import { formatRate } from '../units/rate';
import { askReplication, askRole, draftReplication, replicationChoices, riskWords, stateWords } from './ask';
import { siteLinkChoices } from './link-operations';
import { lineWords, paceFields, paceForetold, paceParams, readPace } from './replication-create';
import { roleFields, sidesOf } from './sides';

const record = { kind: 'record', id: '', name: 'Trabes' } as const;

const configureSchema = z.object({
  replication: z.string(),
  newName: z.string().optional(),
  link: z.string().optional(),
  ...paceParams,
});

function moved(before: Replication, after: Replication): string[] {
  const said: string[] = [];
  if (after.name !== before.name) said.push(`is called ${after.name}`);
  if (after.interval !== before.interval) said.push(`is cut every ${formatDuration(after.interval)}`);
  if (after.rpo !== before.rpo)
    said.push(after.rpo === null ? 'promises nothing' : `loses at most ${formatDuration(after.rpo)}`);
  if (after.images !== before.images) said.push(`keeps ${after.images} images there`);
  if (after.weight !== before.weight) said.push(`has the share ${after.weight} of its link`);
  if (after.cap !== before.cap)
    said.push(after.cap === null ? 'has no limit' : `takes at most ${formatRate(after.cap)}`);
  if (after.link !== before.link) said.push('goes over another link');
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
      ...paceFields,
      link: folded(pick('Over link')),
      newName: folded('New name'),
    },
  },
  title: (p) => `Change replication ${p.replication}`,
  units: (p) => [p],
  plan(view, p) {
    const { asks, row } = askReplication(view, p.replication);
    if (!row) return refused(asks.refusals);
    const pace = readPace(asks, p, row.name);
    if (p.rpo && !p.interval) delete pace.interval;
    const name = p.newName ? asks.freeName('replication', p.newName, undefined, 'newName', row) : row.name;
    const link = p.link ? asks.find('siteLink', p.link, 'link') : view.table('siteLink').get(row.link);
    if (asks.refusals.length > 0 || name === undefined || !link) return refused(asks.refusals);
    const after: Replication = { ...row, ...pace, name, link: link.id };
    const { source } = sidesOf(view, row);
    return planned({
      device: record,
      title: `${row.name} ${moved(row, after).join(', ') || 'stays as it is'}`,
      takes: SECOND,
      effects: [changed('replication', row, { ...pace, name, link: link.id })],
      notes: [lineWords(view, source, link, after).says],
    });
  },
  foretell(view, draft) {
    const row = draftReplication(view, draft);
    const link = row && view.table('siteLink').get(row.link);
    return {
      fields: {
        ...paceForetold(view, draft, row && link ? { volumes: sidesOf(view, row).source, link } : undefined),
        replication: {
          choices: replicationChoices(view),
          says: row
            ? `Every ${formatDuration(row.interval)}, ${row.rpo === null ? 'nothing is promised' : `at most ${formatDuration(row.rpo)} are lost`}.`
            : '',
        },
        link: { choices: [{ value: '', label: 'As it is' }, ...siteLinkChoices(view)] },
        newName: { says: 'Left empty, the name stays.' },
      },
    };
  },
};

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
  plan(view, p, { now }) {
    const { asks, row } = askReplication(view, p.replication);
    const roles = row && askRole(view, asks, row, { e: event }, now);
    if (!row || !roles) return refused(asks.refusals);
    return planned({
      device: record,
      title: `${words.title} ${row.name}`,
      takes: SECOND,
      effects: [
        changed('replication', row, {
          ...roleFields(roles),
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
