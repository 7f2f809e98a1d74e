import { z } from 'zod';
import { emptied, such, the } from '../operation/form';
import { changed, type Effect } from '../estate/effects';
import type { ArrayRow } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { raidGroupOf } from '../estate/relations';
import { atRate } from '../job/work';
import { arrayChoices, draftArray, draftText } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { movedWords, type FieldWords } from '../operation/moved';
import { badReferrals, readReferrals, referralText } from '../nvme/refer';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { shapeOfGroup } from '../raid/geometry';
import { rebuildBytes } from '../raid/rebuild';
import { rateOfRebuild } from '../raid/rates';
import { formatDuration, SECOND } from '../units/duration';
import { formatRate, parseRate } from '../units/rate';

const schema = z.object({
  array: z.string(),
  pathAccess: z.enum(['asymmetric', 'symmetric']).optional().describe('Whether controllers serve a volume alike'),
  rebuildBudget: z.string().optional().describe('Bytes a second for one rebuild, such as 400 MB/s; none for no limit'),
  referrals: z
    .array(z.string())
    .optional()
    .describe('Addresses of NVMe discovery services that it refers hosts to, such as 10.40.1.31 or 10.40.1.31:8009'),
});

const words: FieldWords<ArrayRow> = {
  rebuildBudget: (rate) =>
    rate === null ? 'rebuilds as fast as drives allow' : `rebuilds at ${formatRate(rate)} at most`,
  referrals: (list) =>
    list.length === 0 ? 'refers to no other discovery service' : `refers to ${list.map(referralText).join(', ')}`,
  pathAccess: (access) => (access === 'symmetric' ? 'all paths alike' : 'paths of the owner are the best'),
};

/** Rebuilds that run go on at the rate that the new budget leaves them. */
function reRated(view: EstateView, before: ArrayRow, after: ArrayRow, now: number): Effect[] {
  if (before.rebuildBudget === after.rebuildBudget) return [];
  const overlay = new Overlay(view);
  overlay.apply([changed('array', before, after)]);
  return view
    .table('job')
    .by('array', before.id)
    .filter((job) => job.kind === 'raid-rebuild' && job.raidGroup !== null)
    .map((job) => {
      const group = raidGroupOf(view, job)!;
      return changed('job', job, atRate(job, rateOfRebuild(overlay, group, group.priority), now));
    });
}

/** How long the longest rebuild of the array would take with the budget that is written; null where it is none. */
function longest(view: EstateView, array: ArrayRow, text: string): number | null {
  const read = text === '' || text === 'none' ? null : parseRate(text);
  if (read && (!read.ok || read.value === 0)) return null;
  const said = read?.ok ? read.value : null;
  const rebuildBudget = text === '' ? array.rebuildBudget : said;
  const overlay = new Overlay(view);
  overlay.apply([changed('array', array, { rebuildBudget })]);
  const groups = overlay.table('raidGroup').by('array', array.id);
  if (groups.length === 0) return null;
  return Math.max(
    ...groups.map(
      (group) =>
        (rebuildBytes(shapeOfGroup(group), group.memberSize) / rateOfRebuild(overlay, group, group.priority)) * SECOND,
    ),
  );
}

export const arrayConfigure: OperationType<z.output<typeof schema>> = {
  kind: 'array.configure',
  verb: 'Change an array',
  summary:
    'Says whether the controllers of an array serve a volume alike, or its owner best, what they give to a rebuild, and where its NVMe discovery refers hosts to.',
  schema,
  form: {
    columns: [1, 2, 3],
    fields: {
      array: the.array,
      pathAccess: 'Controllers',
      rebuildBudget: such('Rebuild, at most', '400 MB/s'),
      referrals: emptied(such('Refers to', '10.40.1.31')),
    },
  },
  title: (p) => `Change ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const text = p.rebuildBudget?.trim() ?? '';
    const unlimited = text === 'none' || text === '0';
    const budget =
      text === '' || unlimited
        ? undefined
        : asks.value(parseRate(text), 'rebuildBudget', { kind: 'array', name: p.array });
    const referrals = array && p.referrals && readReferrals(view, asks, array, p.referrals);
    if (asks.refusals.length > 0 || !array) return refused(asks.refusals);
    const after: ArrayRow = {
      ...array,
      pathAccess: p.pathAccess ?? array.pathAccess,
      rebuildBudget: unlimited ? null : (budget ?? array.rebuildBudget),
      referrals: referrals ?? array.referrals,
    };
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${array.name}: ${movedWords(array, after, words)}`,
      takes: 2 * SECOND,
      effects: [changed('array', array, after), ...reRated(view, array, after, context.now)],
      notes: referrals ? badReferrals(view, after).map((bad) => bad.says) : [],
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
      rebuildBudget: {
        says: 'What its controllers give to one rebuild, such as 400 MB/s. None: as much as the drives take.',
        ...(array ? { suggested: array.rebuildBudget === null ? 'none' : formatRate(array.rebuildBudget) } : {}),
      },
    };
    fields.referrals = {
      says: 'Hosts that ask it are told to ask there too. Empty: nowhere.',
      ...(array ? { suggested: array.referrals.map(referralText) } : {}),
    };
    if (array) {
      const hours = longest(view, array, draftText(draft, 'rebuildBudget'));
      if (hours !== null) fields.rebuildBudget!.says = `The longest rebuild would take ${formatDuration(hours)}.`;
    }
    return { fields };
  },
};
