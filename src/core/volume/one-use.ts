import { z } from 'zod';
import { deleted, type Effect } from '../estate/effects';
import type { ArrayRow, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayChoices, draftArray } from '../operation/draft';
import { the } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType, type StepDevice } from '../operation/operation';
import { someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { askVolumes, volumeChoices } from './ask';

/** Kinds of rows that put a volume under something it is under once: a tier policy, a service class, an allotment. */
type OneUse = 'tierUse' | 'classUse' | 'allotmentUse';

const schema = z.object({
  array: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one volume'),
});
export type ReleaseParams = z.output<typeof schema>;

/** Ends what volumes are under. */
const ended = (view: EstateView, use: OneUse, volumes: readonly Volume[]): Effect[] =>
  volumes.flatMap(({ id }) =>
    view
      .table(use)
      .by('volume', id)
      .map((row) => deleted(use, row)),
  );

/** The operation that takes volumes out of what they are under. */
export const releasing = (
  use: OneUse,
  how: {
    kind: string;
    verb: string;
    summary: string;
    /** What they are taken out of. */
    of: string;
    device: (array: ArrayRow) => StepDevice;
    /** What is true afterwards. */
    done: (volumes: readonly Volume[]) => string;
    /** Why one that is under nothing cannot be chosen. */
    free: string;
  },
): OperationType<ReleaseParams> => ({
  kind: how.kind,
  verb: how.verb,
  summary: how.summary,
  schema,
  form: { columns: [3, 4], fields: { array: the.array, volumes: the.volumes } },
  title: (p) => `Take ${someOf(p.volumes)} out of ${how.of}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const volumes = array ? askVolumes(asks, array, p.volumes) : [];
    if (asks.refusals.length > 0 || !array) return refused(asks.refusals);
    return planned({
      device: how.device(array),
      title: how.done(volumes),
      takes: SECOND,
      effects: ended(view, use, volumes),
    });
  },
  foretell: (view, draft) => ({
    fields: {
      array: { choices: arrayChoices(view) },
      volumes: {
        choices: volumeChoices(view, draftArray(view, draft), ({ id }) =>
          view.table(use).countBy('volume', id) > 0 ? undefined : how.free,
        ),
      },
    },
  }),
});
