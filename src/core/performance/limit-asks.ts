import { z } from 'zod';
import { type Effect } from '../estate/effects';
import { rowOf, type ArrayRow, type LimitUse, type LoadLimit, type Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayChoices, byName, draftArray, draftText, hostChoices, namedChoices, orNone } from '../operation/draft';
import { folded, pick, several } from '../operation/form';
import { lookUp, type Inquiry } from '../operation/inquiry';
import { type Choice, type Draft, type FieldForetold, type PlanContext } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { someOf } from '../units/counted';
import { formatCount } from '../units/figures';
import { askVolumes } from '../volume/ask';
import { floorsLack } from './floors';
import { heldBack } from './held-back';
import { limitWords } from './limit-fields';
import { limitedTo, limitedVolumes } from './limits';

/** On whom a limit is put. */
export const onWhom = {
  volumes: z.array(z.string()).default([]).describe('Volumes it is put on'),
  workload: z.string().optional().describe('Or all volumes of a workload'),
  host: z.string().optional().describe('Or all that a host works with'),
  consumer: z.string().optional().describe('Or all that a consumer took from its allotment'),
};

export const limitChoices = (view: EstateView, array: ArrayRow | undefined): Choice[] =>
  [...view.table('loadLimit').values()]
    .filter((row) => !array || row.array === array.id)
    .sort(byName)
    .map((row) => ({ value: row.name, label: `${row.name}, ${limitWords(row)}` }));

export type OnWhom = {
  volumes: string[];
  workload?: string | undefined;
  host?: string | undefined;
  consumer?: string | undefined;
};
/** What a use of a limit refers to. */
export type LimitedKind = 'volume' | 'workload' | 'host' | 'allotment';
export const fieldOf = (kind: LimitedKind): string =>
  ({ volume: 'volumes', workload: kind, host: kind, allotment: 'consumer' })[kind];

/** New uses of a limit, those that are there left out. */
export function askUses(
  view: EstateView,
  asks: Inquiry,
  array: ArrayRow,
  limit: string,
  p: OnWhom,
  context: PlanContext,
): LimitUse[] {
  const standing = view.table('limitUse').by('loadLimit', limit);
  const uses: LimitUse[] = [];
  const put = (field: LimitedKind, row: { id: string; name: string } | undefined) => {
    if (!row) return;
    if (standing.some((use) => use[field] === row.id)) {
      asks.refuse({
        code: 'limit-there-already',
        field: fieldOf(field),
        subject: subjectOf(field, row),
        message: `${row.name} is under this limit already.`,
        mend: 'Leave it out.',
      });
      return;
    }
    uses.push(rowOf('limitUse', { id: context.newId('limitUse'), loadLimit: limit, [field]: row.id }));
  };
  for (const volume of askVolumes(asks, array, p.volumes)) put('volume', volume);
  if (p.workload) put('workload', asks.find('workload', p.workload, 'workload'));
  if (p.host) put('host', asks.find('host', p.host, 'host'));
  if (p.consumer) put('allotment', asks.find('allotment', p.consumer, 'consumer'));
  return uses;
}

/** Refuses what would promise more than can be held with one thing lost. */
export function askFloors(
  view: EstateView,
  asks: Inquiry,
  array: ArrayRow,
  limit: LoadLimit,
  effects: readonly Effect[],
): void {
  const after = new Overlay(view);
  after.apply(effects);
  const lack = floorsLack(after, array.id);
  const before = lack && floorsLack(view, array.id);
  // What was too much before is not held against this change.
  if (!lack || (before && before.share >= lack.share)) return;
  asks.refuse({
    code: 'qos-floors-too-many',
    field: 'floor',
    subject: { kind: 'loadLimit', id: limit.id, name: limit.name },
    message: `With ${lack.state === 'as it stands' ? 'things as they stand' : lack.state}, all that is promised needs ${Math.ceil(lack.share * 100)} % of what ${lack.resource} may promise.`,
    mend: `Promise ${formatCount(Math.floor((limit.floor ?? 0) / lack.share))} I/O/s or less, or move a volume elsewhere.`,
  });
}

/** What is worth saying of a limit on its volumes. */
export function notesOn(view: EstateView, limit: LoadLimit, volumes: readonly Volume[]): string[] {
  return volumes.flatMap((volume) => {
    if (!volume.activity) return [];
    const to = limitedTo(limit, { size: volume.size, ioBytes: volume.activity.ioBytes });
    if (to === null || limit.shared) return [];
    const held = heldBack(volume.activity, to);
    if (to > 10 * held.peak) return [`${volume.name} never asks for a tenth of it: the limit has no effect there.`];
    return held.hoursADay > 4.8 ? [`${volume.name} will be held back ${held.hoursADay.toFixed(1)} h a day.`] : [];
  });
}

export const onLimit = (view: EstateView, limit: LoadLimit, effects: readonly Effect[]): Volume[] => {
  const after = new Overlay(view);
  after.apply(effects);
  return [...limitedVolumes(after, limit)].map((id) => view.table('volume').get(id)!);
};

export const draftLimit = (view: EstateView, draft: Draft): LoadLimit | undefined => {
  const array = draftArray(view, draft);
  return array && lookUp(view, 'loadLimit', draftText(draft, 'limit'), array.id);
};

export const limitFields = (view: EstateView, draft: Draft): Record<string, FieldForetold> => {
  const array = draftArray(view, draft);
  const limit = draftLimit(view, draft);
  const volumes = limit ? [...limitedVolumes(view, limit)].map((id) => view.table('volume').get(id)!.name) : [];
  return {
    array: { choices: arrayChoices(view) },
    limit: {
      choices: limitChoices(view, array),
      says: limit ? `On ${volumes.length > 0 ? someOf(volumes) : 'no volume'}.` : '',
    },
  };
};

/** Fields of whom a limit is put on or taken off, and what stands in the title for them. */
export const onWhomForm = (word: 'On' | 'Off') => ({
  volumes: several(`${word} volumes`),
  workload: pick('Or a workload'),
  host: folded(pick('Or a host')),
  consumer: folded(pick('Or a consumer')),
});

/** What is said beside them when a limit is put on. */
export const onWhomForetold = (view: EstateView): Record<'workload' | 'host' | 'consumer', FieldForetold> => ({
  workload: {
    choices: orNone(namedChoices(view, 'workload')),
    says: 'Volumes that join it later are under the limit too.',
  },
  host: { choices: orNone(hostChoices(view)), says: 'Whatever it works with on this array.' },
  consumer: {
    choices: orNone(namedChoices(view, 'allotment')),
    says: 'Whatever it took from its allotment on this array.',
  },
});

export const whomWords = (p: OnWhom, nobody = 'nothing'): string =>
  p.volumes.length > 0 ? someOf(p.volumes) : (p.workload ?? p.host ?? p.consumer ?? nobody);

/** Nobody was named. */
export const askSomebody = (asks: Inquiry, limit: LoadLimit, named: number): void => {
  if (named === 0 && asks.refusals.length === 0)
    asks.refuse({
      code: 'limit-on-nothing',
      field: 'volumes',
      subject: subjectOf('loadLimit', limit),
      message: 'No volume, workload, host or consumer is named.',
      mend: 'Name at least one.',
    });
};
