import { z } from 'zod';
import { such } from '../operation/form';
import { created, deleted } from '../estate/effects';
import { rowOf } from '../estate/entities';
import { draftText } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { record } from '../operation/record';
import { dateText, parseDate } from '../units/date';
import { DAY, SECOND } from '../units/duration';
import { checks } from './engine';

const schema = z.object({
  check: z.string().describe('Name of the check'),
  subject: z.string().describe('Id of what it is about'),
  reason: z.string().max(500).describe('Why it need not be shown'),
  until: z.string().describe('The last day on which it is not shown, such as 2031-05-31'),
});
type Params = z.output<typeof schema>;

export const findingMute: OperationType<Params> = {
  kind: 'finding.mute',
  verb: 'Mute a finding',
  summary: 'Hides a finding until a day, with a reason that others can read.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      check: 'Check',
      subject: 'About',
      reason: 'Reason',
      until: such('Until', '2031-05-31'),
    },
  },
  title: (p) => `Mute ${p.check} until ${p.until}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const check = checks.find((one) => one.id === p.check);
    const refuse = (field: keyof Params, code: string, message: string, mend: string) =>
      asks.refuse({ code, field, subject: { kind: 'mute', name: p.check }, message, mend });
    if (!check) refuse('check', 'check-unknown', `There is no check ${p.check}.`, 'Take the name from the finding.');
    if (p.subject.trim() === '')
      refuse('subject', 'subject-missing', 'Nothing is named that it is about.', 'Take it from the finding.');
    if (p.reason.trim().length < 3)
      refuse('reason', 'reason-missing', 'No reason is given.', 'Say in a few words why it may wait.');
    const day = asks.value(parseDate(p.until), 'until', { kind: 'mute', name: p.check });
    const until = day === undefined ? 0 : day + DAY;
    if (day !== undefined && until <= context.now)
      refuse('until', 'date-past', `${p.until} is past already.`, 'Write a later date.');
    if (asks.refusals.length > 0 || !check) return refused(asks.refusals);
    const before = view
      .table('mute')
      .by('check', p.check)
      .filter((row) => row.subject === p.subject);
    return planned({
      device: record,
      title: `Mute "${check.title}" for one thing until ${p.until}`,
      takes: SECOND,
      effects: [
        ...before.map((row) => deleted('mute', row)),
        created(
          'mute',
          rowOf('mute', {
            id: context.newId('mute'),
            check: p.check,
            subject: p.subject,
            reason: p.reason.trim(),
            until,
          }),
        ),
      ],
    });
  },
  foretell(_view, draft, context) {
    const check = checks.find((one) => one.id === draftText(draft, 'check'));
    return {
      fields: {
        check: { says: check ? check.title : 'The name that stands with the finding.' },
        subject: { says: 'Only for this one; others are still shown.' },
        reason: { says: 'Others read it beside the finding.' },
        until: {
          suggested: dateText(context.now + 30 * DAY),
          says: 'It is shown again after that day, if it still holds.',
        },
      },
    };
  },
};

const unmuteSchema = z.object({ check: z.string(), subject: z.string() });

export const findingUnmute: OperationType<z.output<typeof unmuteSchema>> = {
  kind: 'finding.unmute',
  verb: 'Show a muted finding again',
  summary: 'Takes the mute of a finding away.',
  schema: unmuteSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      check: 'Check',
      subject: 'About',
    },
  },
  title: (p) => `Show ${p.check} again`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const rows = view
      .table('mute')
      .by('check', p.check)
      .filter((row) => row.subject === p.subject);
    if (rows.length === 0)
      asks.refuse({
        code: 'not-muted',
        field: 'check',
        subject: { kind: 'mute', name: p.check },
        message: `${p.check} is not muted there.`,
        mend: 'Leave it as it is.',
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: record,
      title: `Show ${p.check} again`,
      takes: SECOND,
      effects: rows.map((row) => deleted('mute', row)),
    });
  },
  foretell: () => ({
    fields: { check: { says: 'The name that stands with the finding.' }, subject: { says: 'What it is about.' } },
  }),
};
