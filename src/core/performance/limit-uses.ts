import { z } from 'zod';
import { created, deleted } from '../estate/effects';
import { type LimitUse } from '../estate/entities';
import { draftArray } from '../operation/draft';
import { pick, the } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { planned, refused, type Choice, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { askVolumes, volumeChoices } from '../volume/ask';
import { limitedVolumes } from './limits';
import {
  askFloors,
  askSomebody,
  askUses,
  draftLimit,
  limitFields,
  notesOn,
  onLimit,
  onWhom,
  onWhomForetold,
  onWhomForm,
  whomWords,
  fieldOf,
  type LimitedKind,
} from './limit-asks';

const applySchema = z.object({ array: z.string(), limit: z.string(), ...onWhom });

export const limitApply: OperationType<z.output<typeof applySchema>> = {
  kind: 'limit.apply',
  verb: 'Put a limit on volumes',
  summary:
    'Puts a limit that there is on more volumes, on a workload, a host or a consumer. The tightest of several applies.',
  schema: applySchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      limit: pick('Limit'),
      ...onWhomForm('On'),
    },
  },
  title: (p) => `Put limit ${p.limit} on ${whomWords(p)}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const limit = array && asks.find('loadLimit', p.limit, 'limit', array);
    if (!array || !limit) return refused(asks.refusals);
    const uses = askUses(view, asks, array, limit.id, p, context);
    askSomebody(asks, limit, uses.length);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const effects = uses.map((use) => created('limitUse', use));
    if (limit.floor !== null) askFloors(view, asks, array, limit, effects);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const volumes = onLimit(view, limit, effects);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Limit ${limit.name} holds for ${someOf(volumes.map((one) => one.name)) || 'no volume yet'}`,
      takes: SECOND,
      effects,
      notes: notesOn(view, limit, volumes),
    });
  },
  foretell(view, draft) {
    const limit = draftLimit(view, draft);
    const fields = limitFields(view, draft);
    const under = limit ? limitedVolumes(view, limit) : new Set<string>();
    return {
      fields: {
        ...fields,
        volumes: {
          choices: volumeChoices(view, draftArray(view, draft)),
          says: limit ? `${under.size} under it so far.` : '',
        },
        ...onWhomForetold(view),
      },
    };
  },
};

const liftSchema = applySchema;

export const limitLift: OperationType<z.output<typeof liftSchema>> = {
  kind: 'limit.lift',
  verb: 'Take a limit off',
  summary: 'Takes a limit off volumes, a workload, a host or a consumer; for others it goes on holding.',
  schema: liftSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      limit: pick('Limit'),
      ...onWhomForm('Off'),
    },
  },
  title: (p) => `Take limit ${p.limit} off ${whomWords(p)}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const limit = array && asks.find('loadLimit', p.limit, 'limit', array);
    if (!array || !limit) return refused(asks.refusals);
    const standing = view.table('limitUse').by('loadLimit', limit.id);
    const going: LimitUse[] = [];
    const take = (field: LimitedKind, row: { id: string; name: string } | undefined) => {
      if (!row) return;
      const use = standing.find((one) => one[field] === row.id);
      if (use) {
        if (!going.includes(use)) going.push(use);
        return;
      }
      const covered = field === 'volume' && limitedVolumes(view, limit).has(row.id);
      asks.refuse({
        code: 'limit-not-there',
        field: fieldOf(field),
        subject: subjectOf(field, row),
        message: covered
          ? `${row.name} is under ${limit.name} by its workload, host or consumer, not by itself.`
          : `${limit.name} is not on ${row.name}.`,
        mend: covered ? 'Take it off the workload, the host or the consumer.' : 'Leave it out.',
      });
    };
    for (const volume of askVolumes(asks, array, p.volumes)) take('volume', volume);
    if (p.workload) take('workload', asks.find('workload', p.workload, 'workload'));
    if (p.host) take('host', asks.find('host', p.host, 'host'));
    if (p.consumer) take('allotment', asks.find('allotment', p.consumer, 'consumer'));
    askSomebody(asks, limit, going.length);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Take limit ${limit.name} off ${whomWords(p, '')}`,
      takes: SECOND,
      effects: going.map((use) => deleted('limitUse', use)),
    });
  },
  foretell(view, draft) {
    const limit = draftLimit(view, draft);
    const uses = limit ? view.table('limitUse').by('loadLimit', limit.id) : [];
    const named = <K extends LimitedKind>(kind: K): Choice[] =>
      uses.flatMap((use) => {
        const id = use[kind];
        const row = id === null ? undefined : view.table(kind).get(id);
        return row ? [{ value: row.name, label: row.name }] : [];
      });
    return {
      fields: {
        ...limitFields(view, draft),
        volumes: { choices: named('volume'), says: 'For others it goes on holding.' },
        workload: { choices: [{ value: '', label: 'None' }, ...named('workload')] },
        host: { choices: [{ value: '', label: 'None' }, ...named('host')] },
        consumer: { choices: [{ value: '', label: 'None' }, ...named('allotment')] },
      },
    };
  },
};
