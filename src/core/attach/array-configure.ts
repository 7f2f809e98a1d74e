import { z } from 'zod';
import { changed } from '../estate/effects';
import type { ArrayRow } from '../estate/entities';
import { arrayChoices, draftArray } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { movedWords, type FieldWords } from '../operation/moved';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { SECOND } from '../units/duration';

const schema = z.object({
  array: z.string(),
  pathAccess: z.enum(['asymmetric', 'symmetric']).optional().describe('Whether controllers serve a volume alike'),
});

const words: FieldWords<ArrayRow> = {
  pathAccess: (access) => (access === 'symmetric' ? 'all paths alike' : 'paths of the owner are the best'),
};

export const arrayConfigure: OperationType<z.output<typeof schema>> = {
  kind: 'array.configure',
  verb: 'Change an array',
  summary: 'Says whether the controllers of an array serve a volume alike, or its owner best.',
  schema,
  title: (p) => `Change ${p.array}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    if (!array) return refused(asks.refusals);
    const after: ArrayRow = { ...array, pathAccess: p.pathAccess ?? array.pathAccess };
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${array.name}: ${movedWords(array, after, words)}`,
      takes: 2 * SECOND,
      effects: [changed('array', array, after)],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = {
      array: { choices: arrayChoices(view) },
      pathAccess: {
        choices: [
          { value: 'asymmetric', label: 'Owner best' },
          { value: 'symmetric', label: 'All alike' },
        ],
        says: 'Asymmetric: paths to the controller that owns a volume are optimized, the others wait (ALUA, ANA).',
        ...(array ? { suggested: array.pathAccess } : {}),
      },
    };
    return { fields };
  },
};
