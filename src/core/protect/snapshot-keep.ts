import { z } from 'zod';
import { changed } from '../estate/effects';
import type { Snapshot } from '../estate/entities';
import { arrayOf, volumeOf } from '../estate/relations';
import { parseName } from '../naming/names';
import { draftText } from '../operation/draft';
import { folded, several, such } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { counted, someOf } from '../units/counted';
import { parseDate, timeText } from '../units/date';
import { DAY, SECOND, type Milliseconds } from '../units/duration';
import type { Parsed } from '../units/parsed';
import { parsed } from '../units/parsed';
import { lockChange, lockModes } from '../copies/lock';
import { lockOutlasts } from './make';
import { draftPoints, pointChoices } from './points-field';
import { askPoints, askProtected, namedWords, protectedFields } from './subject';
import { namedFields, namedParams } from './named';
import { isLocked, lockTime } from '../copies/locked';

const which = {
  ...namedParams,
  copies: z.array(z.string()).min(1, 'name at least one copy'),
};
const whichFields = {
  ...namedFields,
  copies: several('Copies'),
} as const;

const lockSchema = z.object({
  ...which,
  until: z.string().describe('A day such as 2031-05-31, or so many days from now; none releases'),
  mode: z
    .enum(lockModes)
    .default('strict')
    .describe('A strict one is only ever lengthened; a dual one two people may shorten'),
  approvers: z.array(z.string()).default([]).describe('Who agrees to shorten a dual lock'),
});
type LockParams = z.output<typeof lockSchema>;

/** `none`, a day, or days from now: the moment a lock ends; null for its release. */
export function parseUntil(text: string, now: Milliseconds): Parsed<Milliseconds | null> {
  const said = text.trim().toLowerCase();
  if (said === 'none') return parsed(null);
  const days = /^(\d+(?:\.\d+)?)\s*(d|days?)?$/.exec(said);
  return days ? parsed(now + Number(days[1]) * DAY) : parseDate(text);
}

const lockWords = (copy: Pick<Snapshot, 'lockedUntil'>, now: Milliseconds): string =>
  copy.lockedUntil !== null && copy.lockedUntil > now ? `locked until ${timeText(copy.lockedUntil)} UTC` : 'not locked';

export const snapshotLock: OperationType<LockParams> = {
  kind: 'snapshot.lock',
  verb: 'Lock copies',
  summary: 'Until a day nobody can delete the copies, nor what they rest on. A strict lock is never shortened.',
  schema: lockSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      ...whichFields,
      until: such('Until', '30 d, or 2031-05-31'),
      mode: 'Kind of lock',
      approvers: folded('Who agrees'),
    },
  },
  title: (p) => `Lock ${someOf(p.copies)} of ${namedWords(p)} until ${p.until}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const { now } = context;
    const subject = askProtected(view, asks, p);
    const points = subject ? askPoints(view, asks, subject, p.copies) : [];
    const until = asks.value(parseUntil(p.until, now), 'until', { kind: 'snapshot', name: p.until });
    if (until === undefined || !subject || asks.refusals.length > 0) return refused(asks.refusals);
    const copies = points.flatMap((point) => point.copies);
    const effects = copies.flatMap((copy) => {
      const active = isLocked(view, copy, now);
      const result = lockChange({
        now: lockTime(arrayOf(view, volumeOf(view, copy)), now),
        mode: active ? copy.lockMode : p.mode,
        currentUntil: copy.lockedUntil,
        wantedUntil: until,
        approvers: p.approvers.map((who) => who.trim().toLowerCase()).filter(Boolean),
      });
      const value = asks.value(result, 'until', subjectOf('snapshot', copy));
      if (value === undefined) return [];
      const lockMode = active && copy.lockMode === 'strict' ? 'strict' : p.mode;
      return [changed('snapshot', copy, { lockedUntil: value.lockedUntil, lockMode })];
    });
    const outlasts = until === null ? null : lockOutlasts(view, subject.volumes, until, now);
    if (outlasts) asks.refuse({ ...outlasts, field: 'until' });
    // One reason is enough for copies that are alike.
    if (asks.refusals.length > 0) return refused(asks.refusals.slice(0, 3));
    const array = arrayOf(view, volumeOf(view, copies[0]!));
    const what = `${counted(points.length, 'copy', 'copies')} of ${subject.name}`;
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: until === null ? `Release ${what}` : `Lock ${what} until ${timeText(until)} UTC`,
      takes: SECOND,
      effects,
      destroys: until === null ? null : `the freedom to delete ${what} before ${timeText(until)} UTC`,
    });
  },
  foretell(view, draft, context) {
    const fields: Foretold['fields'] = protectedFields(view, draft);
    const until = parseUntil(draftText(draft, 'until'), context.now);
    const points = draftPoints(view, draft);
    fields.copies = {
      choices: pointChoices(view, draft, context.now),
      says: points
        .slice(0, 3)
        .map(({ name, copies }) => `${name}: ${lockWords(copies[0]!, context.now)}.`)
        .join(' '),
    };
    fields.until = {
      says: until.ok
        ? until.value === null
          ? 'The lock is released, where that is allowed.'
          : `Nobody can delete them before ${timeText(until.value)} UTC. It is judged by the time that passes; a clock set forward frees nothing.`
        : 'A day such as 2031-05-31, so many days from now (30 d), or none.',
    };
    fields.mode = {
      suggested: 'strict',
      choices: [
        { value: 'strict', label: 'Strict: only ever lengthened' },
        { value: 'dual', label: 'Dual: two people may shorten it' },
      ],
    };
    fields.approvers = { says: 'Two different people, to shorten a dual lock.' };
    return { fields };
  },
};

const keepSchema = z.object({
  ...which,
  newName: z.string().optional(),
  keepUntil: z
    .string()
    .optional()
    .describe('A day, or so many days from now; none keeps them until somebody deletes them'),
  hold: z.string().max(200).optional().describe('Why nobody is to delete them; none releases'),
  notes: z.string().max(1000).optional(),
});

export const snapshotConfigure: OperationType<z.output<typeof keepSchema>> = {
  kind: 'snapshot.configure',
  verb: 'Keep or release copies',
  summary: 'Says until when copies made by hand are kept, holds copies so that nobody deletes them, and releases them.',
  schema: keepSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      ...whichFields,
      hold: such('Hold because', 'audit of April; none releases'),
      keepUntil: such('Keep until', '2031-06-30, 30 d or none'),
      newName: folded('New name'),
      notes: folded('Notes'),
    },
  },
  title: (p) => `Keep ${someOf(p.copies)} of ${namedWords(p)}`,
  units: (p) => [p],
  check: (_view, p) =>
    p.newName && p.copies.length > 1
      ? [
          {
            code: 'one-name-many-copies',
            field: 'newName',
            subject: { kind: 'snapshot', name: p.newName },
            message: `${p.copies.length} copies cannot all be called ${p.newName}.`,
            mend: 'Rename one at a time.',
          },
        ]
      : [],
  plan(view, p, context) {
    const asks = inquire(view);
    const subject = askProtected(view, asks, p);
    const points = subject ? askPoints(view, asks, subject, p.copies) : [];
    const until =
      p.keepUntil === undefined || p.keepUntil === ''
        ? undefined
        : asks.value(parseUntil(p.keepUntil, context.now), 'keepUntil', { kind: 'snapshot', name: p.keepUntil });
    const name = p.newName
      ? asks.value(parseName(p.newName, 'copy'), 'newName', { kind: 'snapshot', name: p.newName })
      : undefined;
    const copies = points.flatMap((point) => point.copies);
    for (const copy of copies) {
      const taken = name === undefined ? undefined : lookUp(view, 'snapshot', name, copy.volume);
      if (taken && taken.id !== copy.id)
        asks.refuse({
          code: 'name-taken',
          field: 'newName',
          subject: subjectOf('snapshot', taken),
          message: `${volumeOf(view, copy).name} has a copy named ${name} already.`,
          mend: 'Choose another name.',
        });
    }
    const planned_ = copies.find((copy) => copy.plan !== null);
    if (planned_ && until !== undefined)
      asks.refuse({
        code: 'kept-by-plan',
        field: 'keepUntil',
        subject: subjectOf('snapshot', planned_),
        message: `${planned_.name} was made by a plan, which says how long it is kept.`,
        mend: 'Hold it instead, or lock it.',
      });
    if (asks.refusals.length > 0 || !subject) return refused(asks.refusals);
    const held = p.hold?.trim();
    const hold = held?.toLowerCase() === 'none' ? '' : held;
    const said = [
      ...(name === undefined ? [] : [`is called ${name}`]),
      ...(hold === undefined ? [] : [hold === '' ? 'is held no longer' : `is held: ${hold}`]),
      ...(until === undefined
        ? []
        : [until === null ? 'is kept until somebody deletes it' : `is kept until ${timeText(until)} UTC`]),
      ...(p.notes === undefined ? [] : ['has other notes']),
    ];
    const array = arrayOf(view, volumeOf(view, copies[0]!));
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${someOf(points.map((point) => point.name))} of ${subject.name} ${said.join(', ') || 'stays as it is'}`,
      takes: SECOND,
      effects:
        said.length === 0
          ? []
          : copies.map((copy) =>
              changed('snapshot', copy, {
                ...(name === undefined ? {} : { name }),
                ...(hold === undefined ? {} : { hold }),
                ...(until === undefined ? {} : { keepUntil: until }),
                ...(p.notes === undefined ? {} : { notes: p.notes }),
              }),
            ),
    });
  },
  foretell(view, draft, context) {
    const fields: Foretold['fields'] = protectedFields(view, draft);
    const points = draftPoints(view, draft);
    const first = points[0]?.copies[0];
    const until = parseUntil(draftText(draft, 'keepUntil'), context.now);
    fields.copies = {
      choices: pointChoices(view, draft, context.now),
      says: first?.hold ? `Held: ${first.hold}.` : 'What is held stays, whatever its plan says, until it is released.',
    };
    fields.hold = { says: 'A reason that others read before they wonder; none releases.' };
    fields.keepUntil = {
      says:
        until.ok && until.value !== null
          ? `Goes by itself after ${timeText(until.value)} UTC.`
          : 'Only for copies made by hand; others go as their plan says.',
    };
    fields.newName = { says: points.length > 1 ? 'Only for one copy at a time.' : 'Left empty, the name stays.' };
    fields.notes = { says: first?.notes ? `So far: ${first.notes}` : '' };
    return { fields };
  },
};
