import { z } from 'zod';
import { changed } from '../estate/effects';
import { usedBlank } from '../move/outside';
import { draftArray, draftFlag, draftList } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { foundByHosts } from '../protect/back';
import { formatBytes } from '../units/bytes';
import { someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import {
  askLun,
  askReadable,
  backOf,
  foundOn,
  lunChoices,
  noted,
  outsideOf,
  ownArrayChoices,
  refusalOn,
  releasing,
  stateWords,
} from './ask';
import { declaredForetold, declaredForm, declaredParams, draftLuns, eachLun, lunsForm, lunsSchema } from './luns-form';
import { stood } from './stand';

export const blankSchema = lunsSchema.extend({
  serials: z.array(z.string()).default([]).describe('The serial of each LUN, to confirm that it is the one'),
  accept: flag.default(false).describe('What was found on them may be erased'),
  ...declaredParams,
});
type Params = z.output<typeof blankSchema>;

/** What of the typed serials is meant for a LUN: its own where it is there, else the first. */
const typedFor = ({ serials }: Pick<Params, 'serials'>, serial: string): string =>
  serials.some((one) => one.trim().toUpperCase() === serial) ? serial : (serials[0] ?? '');

/** Where what is refused was said; else at the LUNs themselves. */
const fieldsOf: { readonly [reason: string]: string } = {
  'import-serial-differs': 'serials',
  'import-signature-not-accepted': 'accept',
};
const mends: Record<string, string> = {
  'import-serial-differs': 'Write the serial that inspecting it showed.',
  'import-mapped': 'Take the mapping away there first.',
  'import-signature-not-accepted': 'Keep its data instead, or accept that it is erased.',
  'import-in-other-pool': 'Let it go there first.',
};

export const outsideBlank: OperationType<Params> = {
  kind: 'outside.blank',
  verb: 'Use outside LUNs as blank room',
  summary:
    'What lies on LUNs of an outside array is erased; each becomes a group of one, room for a pool of this array.',
  schema: blankSchema,
  form: {
    columns: [1, 2],
    fields: {
      ...lunsForm,
      serials: 'Their serials',
      accept: { label: 'Erase what is found', control: 'switch' },
      ...declaredForm,
    },
  },
  title: (p) => `Use ${someOf(p.luns)} as blank room of ${p.array}`,
  units: eachLun,
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const row =
      array &&
      askLun(view, asks, array, p.luns[0]!, ['inspected'], 'Inspect it first; only then is it known what it holds.');
    if (!array || !row) return refused(asks.refusals);
    const volume = backOf(view, row);
    const outside = outsideOf(view, row);
    const found = foundOn(view, row, context.now);
    askReadable(view, asks, row);
    if (found.reservedBy !== null)
      asks.refuse(
        refusalOn(
          row,
          'import-reserved',
          `${row.name}: ${found.reservedBy} holds a reservation on it.`,
          'Let that host release it first.',
          releasing(view, row),
        ),
      );
    const used = usedBlank(found, { typed: typedFor(p, volume.serial), accepted: p.accept });
    if (!used.ok)
      asks.refuse(
        refusalOn(row, used.reason, `${row.name}: ${used.message}`, mends[used.reason]!, {
          field: fieldsOf[used.reason] ?? 'luns',
          ...(used.reason === 'import-mapped'
            ? {
                offer: nextStep(`Take it away from ${found.seenBy}`, 'mapping.delete', {
                  host: found.seenBy,
                  array: outside.name,
                  volumes: [volume.name],
                }),
              }
            : {}),
        }),
      );
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const { group, drive, effects } = stood(
      view,
      row,
      { media: p.media, declared: p.declared, whole: false },
      context.newId,
    );
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Use ${row.name} as blank room: ${formatBytes(group.usable)} in group ${group.name}${found.holds === null ? '' : `; ${found.holds} is erased`}`,
      takes: 10 * SECOND,
      effects: [
        ...effects,
        changed('volume', volume, {
          written: 0,
          holes: [],
          reducedTo: 0,
          files: [],
          image: null,
          activity: null,
          workload: null,
        }),
        ...foundByHosts(view, volume.id, null),
        changed('outsideLun', row, {
          state: 'member',
          drive: drive.id,
          holds: null,
          log: noted(row, context.now, `erased; room of ${array.name} as group ${group.name}`),
        }),
      ],
      notes: [
        `${group.name} has no redundancy of its own: ${p.declared > 0 ? `it survives what ${outside.name} is declared to, ${p.declared}` : `nothing is declared of ${outside.name}`}. A pool is as safe as its worst group.`,
      ],
      destroys: found.holds === null ? null : `what lies on ${row.name}`,
      next: [
        nextStep('Extend a pool by it', 'pool.extend', { array: array.name, raidGroups: [group.name] }),
        nextStep('Make a pool of it', 'pool.create', { array: array.name, raidGroups: [group.name] }),
      ],
    });
  },
  foretell(view, draft, context) {
    const array = draftArray(view, draft);
    const rows = draftLuns(view, draft);
    const typed = new Set(draftList(draft, 'serials').map((one) => one.trim().toUpperCase()));
    const wanting = rows.filter((row) => !typed.has(backOf(view, row).serial));
    const held = rows.flatMap((row) => {
      const { holds } = foundOn(view, row, context.now);
      return holds === null ? [] : [`${row.name}: ${holds}`];
    });
    return {
      fields: {
        array: { choices: ownArrayChoices(view) },
        luns: {
          choices: lunChoices(view, array, (row) => {
            if (row.state !== 'inspected') return stateWords[row.state];
            const { seenBy, pool } = foundOn(view, row, context.now);
            if (seenBy !== null) return `${seenBy} still sees it`;
            return pool === null ? null : `stands behind ${pool}`;
          }),
          says:
            rows.length > 0
              ? `${formatBytes(rows.reduce((sum, row) => sum + row.size, 0))} in all.`
              : 'What was inspected, and no host sees.',
        },
        serials: {
          says:
            rows.length === 0
              ? 'A line each.'
              : wanting.length > 0
                ? `${someOf(wanting.map(({ name }) => name))}: ${wanting.length === 1 ? 'its serial is' : 'their serials are'} not written yet.`
                : 'All are confirmed.',
        },
        accept: {
          says:
            held.length > 0
              ? `${someOf(held)}. ${draftFlag(draft, 'accept') ? 'It is erased for good.' : 'It would be erased for good.'}`
              : 'Nothing was found on them.',
        },
        ...declaredForetold,
      },
    };
  },
};
