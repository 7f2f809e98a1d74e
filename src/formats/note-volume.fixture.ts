import { z } from 'zod';
import { changed } from '@/core/estate/effects';
import { arrayChoices, draftArray, draftText } from '@/core/operation/draft';
import { pick, such, the } from '@/core/operation/form';
import { inquire, lookUp } from '@/core/operation/inquiry';
import { planned, refused, type OperationType } from '@/core/operation/operation';
import { SECOND } from '@/core/units/duration';

const schema = z.object({
  array: z.string(),
  volume: z.string(),
  notes: z.string().describe('What others should know of it'),
});

export const volumeNote: OperationType<z.output<typeof schema>> = {
  kind: 'volume.note',
  verb: 'Note something about a volume',
  summary: 'Keeps a line beside a volume, for whoever looks at it next.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: { array: the.array, volume: pick('Volume'), notes: such('Notes', 'moves in May') },
  },
  title: (p) => `Note ${p.volume}: ${p.notes}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const volume = array && asks.find('volume', p.volume, 'volume', array);
    if (asks.refusals.length > 0 || !array || !volume) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${volume.name}: ${p.notes}`,
      takes: SECOND,
      effects: [changed('volume', volume, { notes: p.notes })],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const volumes = array ? view.table('volume').by('array', array.id) : [];
    const volume = array && lookUp(view, 'volume', draftText(draft, 'volume'), array.id);
    return {
      fields: {
        array: { choices: arrayChoices(view) },
        volume: { choices: volumes.map(({ name }) => ({ value: name, label: name })) },
        notes: { says: volume?.notes ? `So far: ${volume.notes}` : 'Nothing is noted yet.' },
      },
    };
  },
};
