import { z } from 'zod';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayChoices, draftArray } from '../operation/draft';
import { folded, pick, several, such, the } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { askVolumes, volumeChoices } from '../volume/ask';
import { releasing, type ReleaseParams } from '../volume/one-use';
import { policyOf, policyWords, underPolicy } from '../pool/tier-policy';
import {
  askPlaceable,
  draftPolicy,
  noPolicy,
  policyChoices,
  policyForetold,
  policyParams,
  readPolicy,
  shareText,
  subjectOfPolicy,
  whoIsUnder,
} from './policy-fields';

const policyForm = {
  shares: { ...(such('Shares of classes', 'ssd-nvme 10-60') as { label: string }), control: 'lines', keepEmpty: true },
  startOn: pick('New data starts on'),
  notes: folded('Notes'),
} as const;

const device = (array: { id: string; name: string }) => ({ kind: 'array', id: array.id, name: array.name }) as const;

const after = (view: EstateView, effects: readonly Effect[]): EstateView => {
  const overlay = new Overlay(view);
  overlay.apply(effects);
  return overlay;
};

/** Effects that put volumes under a policy; from another policy they change over. */
const put = (
  view: EstateView,
  volumes: readonly Volume[],
  policy: string,
  newId: (kind: 'tierUse') => string,
): Effect[] =>
  volumes.flatMap((volume) => {
    const [use] = view.table('tierUse').by('volume', volume.id);
    return use
      ? [changed('tierUse', use, { tierPolicy: policy })]
      : [created('tierUse', { id: newId('tierUse'), tierPolicy: policy, volume: volume.id })];
  });

const createSchema = z.object({
  array: z.string(),
  name: z.string(),
  volumes: z.array(z.string()).default([]).describe('Volumes it is put on'),
  ...policyParams,
});

export const tierPolicyCreate: OperationType<z.output<typeof createSchema>> = {
  kind: 'tier-policy.create',
  verb: 'Set a tier policy',
  summary: 'How much of a volume may and must lie on which media, and where new data starts; heat decides within that.',
  schema: createSchema,
  form: {
    columns: [2, 3, 4],
    fields: { array: the.array, name: 'Name', volumes: several('On volumes'), ...policyForm },
  },
  title: (p) => `Set tier policy ${p.name} on ${someOf(p.volumes) || 'nothing yet'}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const name = array && asks.freeName('tierPolicy', p.name, array);
    if (!array || name === undefined) return refused(asks.refusals);
    const subject = { kind: 'tierPolicy' as const, name };
    const figures = readPolicy(asks, noPolicy, p, subject);
    const volumes = askVolumes(asks, array, p.volumes);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const policy = rowOf('tierPolicy', { id: context.newId('tierPolicy'), name, array: array.id, ...figures });
    const effects = [created('tierPolicy', policy), ...put(view, volumes, policy.id, context.newId)];
    askPlaceable(asks, after(view, effects), view, volumes, subject, 'shares');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: device(array),
      title: `Tier policy ${name} on ${someOf(volumes.map((one) => one.name)) || 'nothing yet'}: ${policyWords(policy)}`,
      takes: SECOND,
      effects,
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    return {
      fields: {
        array: { choices: arrayChoices(view) },
        name: { says: 'As people call it, such as hot-half.' },
        volumes: {
          choices: volumeChoices(view, array, () => undefined),
          says: 'Or none yet: it can be put on volumes later.',
        },
        ...policyForetold(view, draft, 'new'),
      },
    };
  },
};

const configureSchema = z.object({
  array: z.string(),
  policy: z.string(),
  newName: z.string().optional(),
  ...policyParams,
});

export const tierPolicyConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'tier-policy.configure',
  verb: 'Change a tier policy',
  summary: 'Its bounds, for all volumes under it. Lines named replace those before; what is not named stays.',
  schema: configureSchema,
  form: {
    columns: [2, 3, 4],
    fields: {
      array: the.array,
      policy: pick('Tier policy'),
      ...policyForm,
      shares: { label: 'Shares of classes', control: 'lines', placeholder: 'as they are' },
      newName: folded('New name'),
    },
  },
  title: (p) => `Change tier policy ${p.policy} on ${p.array}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const policy = array && asks.find('tierPolicy', p.policy, 'policy', array);
    if (!array || !policy) return refused(asks.refusals);
    const name = p.newName ? asks.freeName('tierPolicy', p.newName, array, 'newName', policy) : policy.name;
    const figures = readPolicy(asks, policy, p, subjectOfPolicy(policy));
    if (asks.refusals.length > 0 || name === undefined) return refused(asks.refusals);
    const next = { ...policy, ...figures, name };
    const effects = [changed('tierPolicy', policy, next)];
    askPlaceable(asks, after(view, effects), view, underPolicy(view, policy.id), subjectOfPolicy(policy), 'shares');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: device(array),
      title: `Tier policy ${policy.name}${name === policy.name ? '' : ` is called ${name}`}: ${policyWords(next)}`,
      takes: SECOND,
      effects,
      notes: ['What lies otherwise moves when its pool is placed by heat.'],
    });
  },
  foretell(view, draft) {
    const policy = draftPolicy(view, draft);
    const fields = policyForetold(view, draft);
    return {
      fields: {
        array: { choices: arrayChoices(view) },
        policy: {
          choices: policyChoices(view, draftArray(view, draft)),
          says: policy ? `On ${whoIsUnder(view, policy.id)}.` : '',
        },
        ...fields,
        shares: {
          says: `${policy ? `Now ${policy.shares.map(shareText).join('; ') || 'no bounds'}. ` : ''}${fields.shares!.says}`,
        },
        newName: { says: 'Left empty, the name stays.' },
      },
    };
  },
};

const applySchema = z.object({
  array: z.string(),
  policy: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one volume'),
});

export const tierPolicyApply: OperationType<z.output<typeof applySchema>> = {
  kind: 'tier-policy.apply',
  verb: 'Put volumes under a tier policy',
  summary: 'From then on it bounds what they have of each class; from another policy they change over.',
  schema: applySchema,
  form: { columns: [2, 3, 4], fields: { array: the.array, policy: pick('Tier policy'), volumes: the.volumes } },
  title: (p) => `Put ${someOf(p.volumes)} under tier policy ${p.policy}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const policy = array && asks.find('tierPolicy', p.policy, 'policy', array);
    if (!array || !policy) return refused(asks.refusals);
    const volumes = askVolumes(asks, array, p.volumes);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const moving = volumes.filter((volume) => policyOf(view, volume.id)?.id !== policy.id);
    const effects = put(view, moving, policy.id, context.newId);
    askPlaceable(asks, after(view, effects), view, moving, subjectOfPolicy(policy), 'volumes');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const left = moving.flatMap((volume) => {
      const had = policyOf(view, volume.id);
      return had ? [`${volume.name} leaves ${had.name}.`] : [];
    });
    return planned({
      device: device(array),
      title: `${someOf(volumes.map(({ name }) => name))} under tier policy ${policy.name}: ${policyWords(policy)}`,
      takes: SECOND,
      effects,
      notes: left,
    });
  },
  foretell(view, draft) {
    const policy = draftPolicy(view, draft);
    return {
      fields: {
        array: { choices: arrayChoices(view) },
        policy: {
          choices: policyChoices(view, draftArray(view, draft)),
          says: policy ? `On ${whoIsUnder(view, policy.id)} so far.` : '',
        },
        volumes: {
          choices: volumeChoices(view, draftArray(view, draft), (volume) =>
            policy && policyOf(view, volume.id)?.id === policy.id ? 'is under it already' : undefined,
          ),
        },
      },
    };
  },
};

export const tierPolicyLift: OperationType<ReleaseParams> = releasing('tierUse', {
  kind: 'tier-policy.lift',
  verb: 'Take volumes out of their tier policy',
  summary: 'From then on heat alone decides where they lie.',
  of: 'their tier policy',
  device,
  done: (volumes) =>
    `Heat alone decides where ${someOf(volumes.map(({ name }) => name))} ${volumes.length === 1 ? 'lies' : 'lie'}`,
  free: 'is under no policy',
});

const deleteSchema = z.object({ array: z.string(), policy: z.string() });

export const tierPolicyDelete: OperationType<z.output<typeof deleteSchema>> = {
  kind: 'tier-policy.delete',
  verb: 'Drop a tier policy',
  summary: 'Volumes under it are bounded by nothing from then on.',
  schema: deleteSchema,
  form: { columns: [2, 3, 4], fields: { array: the.array, policy: pick('Tier policy') } },
  title: (p) => `Drop tier policy ${p.policy} of ${p.array}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const policy = array && asks.find('tierPolicy', p.policy, 'policy', array);
    if (!array || !policy) return refused(asks.refusals);
    const uses = view.table('tierUse').by('tierPolicy', policy.id);
    return planned({
      device: device(array),
      title: `Drop tier policy ${policy.name}`,
      takes: SECOND,
      effects: [...uses.map((use) => deleted('tierUse', use)), deleted('tierPolicy', policy)],
      notes: uses.length > 0 ? [`Heat alone decides then where ${whoIsUnder(view, policy.id)} lie.`] : [],
    });
  },
  foretell(view, draft) {
    const policy = draftPolicy(view, draft);
    return {
      fields: {
        array: { choices: arrayChoices(view) },
        policy: {
          choices: policyChoices(view, draftArray(view, draft)),
          says: policy ? `On ${whoIsUnder(view, policy.id)}.` : '',
        },
      },
    };
  },
};
