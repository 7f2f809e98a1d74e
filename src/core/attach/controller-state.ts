import { z } from 'zod';
import { changed } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { arrayChoices, byName, draftArray, draftText } from '../operation/draft';
import { pick, the } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { lossNotes, mappingsOfArray, pathsAround, refuseCut } from './losses';

const schema = z.object({ array: z.string(), controller: z.string() });
type Params = z.output<typeof schema>;

const ownedBy = (view: EstateView, controller: string): number => view.table('volume').countBy('owner', controller);

function operation(kind: string, verb: string, summary: string, to: 'up' | 'down'): OperationType<Params> {
  const back = to === 'up';
  return {
    kind,
    verb,
    summary,
    schema,
    form: { columns: [4, 5, 6, 7], fields: { array: the.array, controller: pick('Controller') } },
    title: (p) => (back ? `Give back to controller ${p.controller}` : `Fail controller ${p.controller} over`),
    units: (p) => [p],
    plan(view, p) {
      const asks = inquire(view);
      const array = asks.find('array', p.array, 'array');
      const controller = array && asks.find('controller', p.controller, 'controller', array);
      if (!array || !controller) return refused(asks.refusals);
      const partner = view
        .table('controller')
        .by('array', array.id)
        .find((row) => row.id !== controller.id && row.state === 'up');
      const refuse = (code: string, message: string, mend: string) =>
        asks.refuse({ code, field: 'controller', subject: subjectOf('controller', controller), message, mend });
      if (controller.state === to)
        refuse(
          back ? 'controller-up' : 'controller-down',
          `Controller ${controller.name} of ${array.name} is ${to} already.`,
          'Leave it as it is.',
        );
      else if (!back && !partner)
        refuse(
          'no-partner',
          `No other controller of ${array.name} is up to take its volumes.`,
          'Bring the partner up first.',
        );
      const effects = [changed('controller', controller, { state: to })];
      const around = pathsAround(view, effects, mappingsOfArray(view, array.id));
      if (!back) refuseCut(asks, around, subjectOf('controller', controller), 'controller');
      if (asks.refusals.length > 0) return refused(asks.refusals);
      const count = ownedBy(view, controller.id);
      const volumes = `${count} ${count === 1 ? 'volume' : 'volumes'}`;
      return planned({
        device: { kind: 'array', id: array.id, name: array.name },
        title: back
          ? `Bring controller ${controller.name} up; ${volumes} go back to it`
          : `Take controller ${controller.name} down; ${partner!.name} serves its ${volumes}`,
        // Paths are in transition while the other takes over (ALUA, ANA).
        takes: (back ? 30 : 20) * SECOND,
        effects,
        notes: lossNotes(around),
      });
    },
    foretell(view, draft) {
      const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, controller: {} };
      const array = draftArray(view, draft);
      if (!array) return { fields };
      const controllers = [...view.table('controller').by('array', array.id)].sort(byName);
      fields.controller!.choices = controllers.map((row) => ({
        value: row.name,
        label: `${row.name}, owns ${ownedBy(view, row.id)} volumes`,
        ...(row.state === to ? { unfit: `is ${to}` } : {}),
      }));
      const chosen = controllers.find((row) => row.name === draftText(draft, 'controller'));
      if (!chosen || chosen.state === to) return { fields };
      const around = pathsAround(view, [changed('controller', chosen, { state: to })], mappingsOfArray(view, array.id));
      fields.controller!.says = `Paths of ${array.name}: ${around.before} → ${around.after}.`;
      return { fields };
    },
  };
}

export const controllerFailOver = operation(
  'controller.fail-over',
  'Fail a controller over',
  'Takes a controller down for work; its partner serves its volumes meanwhile. Refused where a mounted volume would lose its last path.',
  'down',
);
export const controllerGiveBack = operation(
  'controller.give-back',
  'Give back to a controller',
  'Brings a controller up again; the volumes it owns go back to it.',
  'up',
);
