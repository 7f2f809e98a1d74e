import { changed } from '../estate/effects';
import { draftArray } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { formatBytes } from '../units/bytes';
import { someOf } from '../units/counted';
import { momentText } from '../units/date';
import { SECOND } from '../units/duration';
import {
  askLun,
  askReadable,
  backOf,
  foundOn,
  holdsWords,
  lastWrite,
  lunChoices,
  noted,
  ownArrayChoices,
  stateWords,
} from './ask';
import { draftLuns, eachLun, lunsForm, lunsSchema, type LunsParams } from './luns-form';

export const outsideInspect: OperationType<LunsParams> = {
  kind: 'outside.inspect',
  verb: 'Inspect outside LUNs',
  summary:
    'Reads what LUNs of an outside array are: size, serial, what lies on them, who wrote last and who holds them.',
  schema: lunsSchema,
  form: { columns: [4, 5, 6], fields: lunsForm },
  title: (p) => `Inspect ${someOf(p.luns)} from ${p.array}`,
  units: eachLun,
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const row =
      array &&
      askLun(view, asks, array, p.luns[0]!, ['found', 'inspected'], 'Only what is not in use yet is inspected.');
    if (row) askReadable(view, asks, row);
    if (asks.refusals.length > 0 || !array || !row) return refused(asks.refusals);
    const volume = backOf(view, row);
    const { serial, sectorBytes, reservedBy } = foundOn(view, row, context.now);
    const holds = holdsWords(view, volume);
    const writtenAt = lastWrite(view, volume, context.now);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Inspect ${row.name}: ${formatBytes(volume.size)}, serial ${serial}, ${holds ?? 'nothing on it'}`,
      takes: 5 * SECOND,
      effects: [
        changed('outsideLun', row, {
          state: 'inspected',
          serial,
          size: volume.size,
          sector: sectorBytes,
          holds,
          writtenAt,
          reservedBy,
          inspectedAt: context.now,
          log: noted(row, context.now, `inspected: ${formatBytes(volume.size)}, ${holds ?? 'nothing on it'}`),
        }),
      ],
      notes: [
        ...(writtenAt === null ? [] : [`${row.name} was last written ${momentText(writtenAt)}.`]),
        ...(reservedBy === null ? [] : [`${reservedBy} holds a reservation on ${row.name}.`]),
      ],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const rows = draftLuns(view, draft);
    return {
      fields: {
        array: { choices: ownArrayChoices(view) },
        luns: {
          choices: lunChoices(view, array, (row) =>
            row.state === 'found' || row.state === 'inspected' ? null : stateWords[row.state],
          ),
          says:
            rows.length > 0
              ? `${someOf(rows.map(({ name }) => name))}: nothing is written there.`
              : 'What a look over the fabric has found.',
        },
      },
    };
  },
};
