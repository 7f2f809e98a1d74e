import { z } from 'zod';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { parseName } from '../naming/names';
import { draftFlag, draftText } from '../operation/draft';
import { folded, such } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { formatBytes } from '../units/bytes';
import { counted } from '../units/counted';
import { timeText } from '../units/date';
import { DAY } from '../units/duration';
import { shownBytes } from '../copies/parts';
import { makeCopies } from './make';
import { freeCopyName, nameByPattern, USUAL_PATTERN } from './names';
import { usersOf } from './pause';
import { askProtected, draftProtected, namedWords, protectedFields, type Protected } from './subject';
import { namedFields, namedParams } from './named';

const schema = z.object({
  ...namedParams,
  name: z.string().optional().describe('Without it the date and time'),
  quiesce: flag.default(false).describe('Applications are paused for it'),
  onTimeout: z.enum(['crash', 'fail']).default('crash').describe('When an application does not pause'),
  keepDays: z.coerce.number().int().min(0).max(36_500).default(0).describe('Days until it goes by itself; 0 for never'),
  lockDays: z.coerce.number().min(0).max(36_500).default(0).describe('Days for which nobody can delete it'),
  notes: z.string().max(1000).optional().describe('Why it is made'),
  madeBy: z.string().max(120).optional(),
});
type Params = z.output<typeof schema>;

export const labelWords = { application: 'application-consistent', crash: 'crash-consistent' } as const;

/** What pausing would come to, before anything is paused. */
function pauseWords(view: EstateView, subject: Protected): string {
  const hosts = usersOf(view, subject.volumes);
  if (hosts.length === 0) return 'No host has it mounted: there is nothing to pause.';
  const with_ = hosts.filter((host) => host.application !== 'none' && host.agent !== 'none');
  const without = hosts.filter((host) => !with_.includes(host));
  return [
    with_.length > 0 ? `Agents at ${with_.map((host) => host.name).join(', ')} pause their applications.` : '',
    without.length > 0 ? `No agent at ${without.map((host) => host.name).join(', ')}.` : '',
  ]
    .filter(Boolean)
    .join(' ');
}

export const snapshotCreate: OperationType<Params> = {
  kind: 'snapshot.create',
  verb: 'Copy now',
  summary: 'Makes a copy of a volume, or of all volumes of a workload at one instant, that stands until it is deleted.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      ...namedFields,
      name: 'Name',
      quiesce: { label: 'Pause applications', control: 'switch' },
      onTimeout: folded('If one does not pause'),
      keepDays: folded('Keep for, days'),
      lockDays: folded('Lock for, days'),
      notes: such('Why', 'before the new timetable'),
      madeBy: folded('By'),
    },
  },
  title: (p) => `Copy ${namedWords(p)}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const subject = askProtected(view, asks, p);
    if (!subject) return refused(asks.refusals);
    const wanted = p.name || nameByPattern(USUAL_PATTERN, context.now);
    const read = asks.value(parseName(wanted, 'copy'), 'name', { kind: 'snapshot', name: wanted });
    if (read === undefined) return refused(asks.refusals);
    const name = freeCopyName(view, subject.volumes, read);
    if (p.name && name !== read) {
      asks.refuse({
        code: 'name-taken',
        field: 'name',
        subject: { kind: 'snapshot', name: read },
        message: `${subject.name} has a copy named ${read} already.`,
        mend: 'Choose another name.',
      });
      return refused(asks.refusals);
    }
    const made = makeCopies(
      view,
      subject,
      {
        name,
        at: context.now,
        madeBy: p.madeBy ?? '',
        notes: p.notes ?? '',
        keepUntil: p.keepDays > 0 ? context.now + p.keepDays * DAY : null,
        lockedUntil: p.lockDays > 0 ? context.now + p.lockDays * DAY : null,
        quiesce: p.quiesce,
        onTimeout: p.onTimeout,
      },
      context.newId,
    );
    if (!made.ok) return refused(made.refusals);
    const array = arrayOf(view, subject.volumes[0]!);
    const { label, reason } = made.paused;
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Copy ${subject.name} as ${name}: ${counted(made.copies.length, 'volume')} at one instant, ${labelWords[label!]}`,
      takes: made.paused.took,
      effects: made.effects,
      notes: reason === null ? [] : [`It is ${labelWords[label!]} only: ${reason}.`],
      destroys:
        p.lockDays > 0 ? `the freedom to delete it before ${timeText(context.now + p.lockDays * DAY)} UTC` : null,
    });
  },
  foretell(view, draft, context) {
    const fields: Foretold['fields'] = protectedFields(view, draft);
    const subject = draftProtected(view, draft);
    const lock = Number(draftText(draft, 'lockDays') || 0);
    const keep = Number(draftText(draft, 'keepDays') || 0);
    fields.name = {
      suggested: nameByPattern(USUAL_PATTERN, context.now),
      says: subject
        ? `${formatBytes(
            subject.volumes.reduce((sum, volume) => sum + shownBytes(volume), 0),
            'used',
          )} as they are now. A copy takes no room until hosts write over what it shows.`
        : '',
    };
    fields.quiesce = {
      says: !subject
        ? 'Applications write down what they hold in memory and stand still for a moment.'
        : draftFlag(draft, 'quiesce')
          ? pauseWords(view, subject)
          : 'Not paused: what a power cut would leave, write order kept.',
    };
    fields.onTimeout = {
      choices: [
        { value: 'crash', label: 'A crash-consistent copy all the same' },
        { value: 'fail', label: 'No copy' },
      ],
    };
    fields.keepDays = {
      says:
        keep > 0
          ? `Goes by itself after ${timeText(context.now + keep * DAY)} UTC.`
          : 'Stays until somebody deletes it.',
    };
    fields.lockDays = {
      says:
        lock > 0
          ? `Nobody can delete it before ${timeText(context.now + lock * DAY)} UTC, nor take this back.`
          : 'Not locked.',
    };
    fields.notes = { says: 'For those who wonder later why it is kept.' };
    fields.madeBy = { says: 'Who answers for it.' };
    return { fields };
  },
};
