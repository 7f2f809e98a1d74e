import { z } from 'zod';
import { changed } from '../estate/effects';
import { the } from '../operation/form';
import { arrayChoices, draftArray } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatDuration, SECOND } from '../units/duration';

const schema = z.object({ array: z.string() });

export const arraySetClock: OperationType<z.output<typeof schema>> = {
  kind: 'array.set-clock',
  verb: 'Set the clock of an array',
  summary: 'Lets its clock go by its time source again. Locks went by the time that passed all along.',
  schema,
  form: { columns: [3, 4, 7], fields: { array: the.array } },
  title: (p) => `Set the clock of ${p.array}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    if (!array) return refused(asks.refusals);
    if (array.clockOff === 0)
      return refused([
        {
          code: 'clock-right',
          field: 'array',
          subject: subjectOf('array', array),
          message: `The clock of ${array.name} is right.`,
          mend: 'Leave it as it is.',
        },
      ]);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Set the clock of ${array.name}, which is off by ${formatDuration(Math.abs(array.clockOff))}`,
      takes: SECOND,
      effects: [changed('array', array, { clockOff: 0 })],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    return {
      fields: {
        array: {
          choices: arrayChoices(view),
          says: array
            ? array.clockOff === 0
              ? 'Its clock is right.'
              : `It is off by ${formatDuration(Math.abs(array.clockOff))}.`
            : '',
        },
      },
    };
  },
};
