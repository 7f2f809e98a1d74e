import { z } from 'zod';
import { changed, created, deleted } from '../estate/effects';
import { rowOf, type Witness } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { siteOf } from '../estate/relations';
import { byName, draftText } from '../operation/draft';
import { folded, pick } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Choice, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { record } from '../operation/record';
import { SECOND } from '../units/duration';
import { siteChoices } from './link-operations';
import { askWitnessPlace } from './stretch-ask';

export const witnessChoices = (view: EstateView): Choice[] =>
  [...view.table('witness').values()].sort(byName).map((witness) => ({
    value: witness.name,
    label: `${witness.name}, ${siteOf(view, witness).name}`,
  }));

const createSchema = z.object({ name: z.string(), site: z.string(), notes: z.string().max(1000).optional() });

export const witnessCreate: OperationType<z.output<typeof createSchema>> = {
  kind: 'witness.create',
  verb: 'Set up a witness',
  summary: 'A third voice at a third place, which decides which site of a stretched volume goes on.',
  schema: createSchema,
  form: { columns: [3, 4, 7], fields: { name: 'Name', site: pick('Site'), notes: folded('Notes') } },
  title: (p) => `Set up witness ${p.name} at ${p.site}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.freeName('witness', p.name);
    const site = asks.find('site', p.site, 'site');
    if (asks.refusals.length > 0 || name === undefined || !site) return refused(asks.refusals);
    const row = rowOf('witness', { id: context.newId('witness'), name, site: site.id, notes: p.notes ?? '' });
    return planned({
      device: record,
      title: `Set up witness ${name} at ${site.name}`,
      takes: 5 * SECOND,
      effects: [created('witness', row)],
    });
  },
  foretell(view) {
    return {
      fields: {
        name: { says: 'As people call it.' },
        site: { choices: siteChoices(view), says: 'Neither of the sites between which it decides.' },
        notes: { says: 'On what it runs, whom to call.' },
      },
    };
  },
};

const configureSchema = z.object({
  witness: z.string(),
  newName: z.string().optional(),
  site: z.string().optional(),
  notes: z.string().max(1000).optional(),
});

/** Refuses a place that is no third one for a stretched volume which asks it. */
function askPlace(view: EstateView, asks: Inquiry, witness: Witness): void {
  for (const row of view.table('replication').by('witness', witness.id))
    askWitnessPlace(view, asks, row, witness, 'site');
}

export const witnessConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'witness.configure',
  verb: 'Change a witness',
  summary: 'Its name, its place and what is noted of it. What is not named stays.',
  schema: configureSchema,
  form: {
    columns: [3, 4, 7],
    fields: { witness: pick('Witness'), site: pick('Site'), notes: 'Notes', newName: folded('New name') },
  },
  title: (p) => `Change witness ${p.witness}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const witness = asks.find('witness', p.witness, 'witness');
    if (!witness) return refused(asks.refusals);
    const site = p.site ? asks.find('site', p.site, 'site') : siteOf(view, witness);
    const name = p.newName ? asks.freeName('witness', p.newName, undefined, 'newName', witness) : witness.name;
    if (asks.refusals.length > 0 || !site || name === undefined) return refused(asks.refusals);
    const after = { ...witness, name, site: site.id, notes: p.notes ?? witness.notes };
    askPlace(view, asks, after);
    if (asks.refusals.length > 0) return refused(asks.refusals.slice(0, 2));
    return planned({
      device: record,
      title: `Witness ${witness.name}${name === witness.name ? '' : ` is called ${name}`}${site.id === witness.site ? '' : ` moves to ${site.name}`}`,
      takes: 5 * SECOND,
      effects: [changed('witness', witness, after)],
    });
  },
  foretell(view, draft) {
    const witness = lookUp(view, 'witness', draftText(draft, 'witness'));
    const users = witness ? view.table('replication').countBy('witness', witness.id) : 0;
    return {
      fields: {
        witness: {
          choices: witnessChoices(view),
          says: witness ? `${users === 1 ? 'One stretched volume asks' : `${users} stretched volumes ask`} it.` : '',
        },
        site: {
          choices: siteChoices(view),
          suggested: witness ? siteOf(view, witness).name : '',
          says: 'A third place.',
        },
        notes: { suggested: witness?.notes ?? '', says: 'On what it runs, whom to call.' },
        newName: { says: 'Left empty, the name stays.' },
      },
    };
  },
};

const deleteSchema = z.object({ witness: z.string() });

export const witnessDelete: OperationType<z.output<typeof deleteSchema>> = {
  kind: 'witness.delete',
  verb: 'Forget a witness',
  summary: 'Forgets a witness that no stretched volume asks.',
  schema: deleteSchema,
  form: { columns: [3, 4, 7], fields: { witness: pick('Witness') } },
  title: (p) => `Forget witness ${p.witness}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const witness = asks.find('witness', p.witness, 'witness');
    if (!witness) return refused(asks.refusals);
    const [user] = view.table('replication').by('witness', witness.id);
    if (user)
      asks.refuse({
        code: 'witness-used',
        field: 'witness',
        subject: subjectOf('witness', witness),
        message: `${user.name} asks ${witness.name} which site goes on.`,
        mend: `Let ${user.name} ask another witness first, or take a leg of it away.`,
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: record,
      title: `Forget witness ${witness.name}`,
      takes: SECOND,
      effects: [deleted('witness', witness)],
    });
  },
  foretell: (view) => ({ fields: { witness: { choices: witnessChoices(view) } } }),
};
