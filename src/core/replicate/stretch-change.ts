import { pauseWords } from '../stretch/told';
import { pauseOf } from './stretch-words';
import { z } from 'zod';
import { changed } from '../estate/effects';
import type { Replication, Witness } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { StretchCourse } from '../kinds/stretch';
import { draftText } from '../operation/draft';
import { folded, pick, such } from '../operation/form';
import type { Inquiry } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { record } from '../operation/record';
import { SECOND } from '../units/duration';
import { readBudget } from './mirror-terms';
import { askSite, askStretched, askWitnessPlace, draftStretched, placeChoices, stretchedChoices } from './stretch-ask';
import { lineToWitness, placeOf } from './stretched';
import { witnessChoices } from './witness-operations';
import type { SiteName } from '../stretch/state';

const schema = z.object({
  replication: z.string().describe('The stretched volume or workload'),
  preferred: z.string().optional().describe('The site that goes on first when both lose each other'),
  witness: z.string().optional(),
  budget: z.string().optional().describe('Milliseconds that it may add to a write; none for any'),
  newName: z.string().optional(),
});

/** Both sites must serve and ask the witness: whoever decides is never changed while something is being decided. */
function askWhole(asks: Inquiry, row: Replication, { pair }: StretchCourse): void {
  const asksWitness = pair.A.arb === 'W' && pair.B.arb === 'W';
  if (row.state === 'protected' && asksWitness && pair.W.owner === 'both') return;
  asks.refuse({
    code: 'stretched-not-whole',
    field: 'replication',
    subject: subjectOf('replication', row),
    message:
      row.state === 'protected'
        ? `The sites of ${row.name} have agreed to do without their witness for now.`
        : `${row.name} does not stand at both sites now.`,
    mend: 'Wait until both serve and see their witness.',
  });
}

/** A new witness begins with a register that knows of both. */
function enrolled(
  view: EstateView,
  row: Replication,
  { pair, ...course }: StretchCourse,
  witness: Witness,
): StretchCourse {
  const sees = (site: SiteName) => lineToWitness(view, { ...row, witness: witness.id }, site) !== undefined;
  const W = { up: witness.state === 'up', epoch: pair.A.epoch, owner: 'both' as const, told: null };
  return { ...course, pair: { ...pair, W, AW: sees('A'), BW: sees('B') }, denied: [] };
}

export const stretchConfigure: OperationType<z.output<typeof schema>> = {
  kind: 'stretch.configure',
  verb: 'Change a stretched volume',
  summary: 'The site that goes on first, the witness, what it may add to a write. What is not named stays.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      replication: pick('Stretched'),
      preferred: pick('Preferred site'),
      witness: pick('Witness'),
      budget: folded(such('May add to a write, ms', '5')),
      newName: folded('New name'),
    },
  },
  title: (p) => `Change stretched ${p.replication}`,
  units: (p) => [p],
  plan(view, p) {
    const { asks, row } = askStretched(view, p.replication);
    if (!row) return refused(asks.refusals);
    const subject = { kind: 'replication', name: row.name } as const;
    const sites = { A: placeOf(view, row, 'A'), B: placeOf(view, row, 'B') };
    const { pair } = row.stretch;
    const preferred = p.preferred ? askSite(asks, p.preferred, 'preferred', sites, subject) : pair.preferred;
    const witness = p.witness ? asks.find('witness', p.witness, 'witness') : view.table('witness').get(row.witness!);
    if (witness && witness.id !== row.witness) askWitnessPlace(view, asks, row, witness, 'witness');
    const budget = p.budget ? readBudget(asks, p.budget, row.name) : row.budget;
    const name = p.newName ? asks.freeName('replication', p.newName, undefined, 'newName', row) : row.name;
    if (preferred !== pair.preferred || witness?.id !== row.witness) askWhole(asks, row, row.stretch);
    if (asks.refusals.length > 0 || !preferred || !witness || name === undefined) return refused(asks.refusals);
    const course = witness.id === row.witness ? row.stretch : enrolled(view, row, row.stretch, witness);
    const stretch = { ...course, pair: { ...course.pair, preferred } };
    const said = [
      ...(preferred === pair.preferred ? [] : [`${sites[preferred].name} goes on first`]),
      ...(witness.id === row.witness ? [] : [`${witness.name} decides`]),
      ...(budget === row.budget ? [] : [budget === null ? 'may add any time' : `may add ${budget} ms to a write`]),
      ...(name === row.name ? [] : [`is called ${name}`]),
    ];
    return planned({
      device: record,
      title: `${row.name}: ${said.join(', ') || 'nothing else'}`,
      takes: 2 * SECOND,
      effects: [changed('replication', row, { stretch, witness: witness.id, budget: budget ?? null, name })],
    });
  },
  foretell(view, draft) {
    const row = draftStretched(view, draft);
    const named = draftText(draft, 'preferred');
    return {
      fields: {
        replication: { choices: stretchedChoices(view) },
        preferred: {
          choices: placeChoices(view, row),
          suggested: row ? placeOf(view, row, row.stretch.pair.preferred).name : '',
          says: row
            ? `When both live and lose each other, ${named || 'it'} goes on after ${pauseWords(pauseOf(view, row, row.stretch.pair.preferred))}.`
            : '',
        },
        witness: {
          choices: witnessChoices(view),
          suggested: row ? (view.table('witness').get(row.witness!)?.name ?? '') : '',
          says: 'At a third place, seen by both sites.',
        },
        budget: { says: row?.budget ? `${row.budget} ms now.` : 'Any time now.' },
        newName: { says: 'Left empty, the name stays.' },
      },
    };
  },
};
