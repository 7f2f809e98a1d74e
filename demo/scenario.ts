import { planChange } from '@/core/change/plan';
import type { OperationDocument } from '@/core/change/registry';
import { changed, type Effect } from '@/core/estate/effects';
import type { ContentProfile } from '@/core/estate/entities';
import { Estate, type EstateView } from '@/core/estate/estate';
import { newIds } from '@/core/estate/new-ids';
import { lookUpDrive } from '@/core/operation/inquiry';
import { fitStore } from '@/core/pool/store';
import { DAY } from '@/core/units/duration';
import { attached } from './attached';
import { carved } from './carved';
import { bareHardware, LAB_START } from './hardware';
import { slots } from './names';

/** Work of the last hours: a group that is still being initialised when the demo begins. */
export const recent: OperationDocument[] = [
  {
    do: 'raid-group.create',
    array: 'lintel-1',
    name: 'rg-4',
    level: 'raid6',
    drives: slots(2, 0, 7),
    chunk: '128 KiB',
  },
];
export const RECENT_HOURS = 9;
/** Days that lie between the first of the history and the morning of the demo. */
export const HISTORY_DAYS = 120;

/** What hosts write: sister volumes hold much that is alike; recordings are compressed already. */
const contents: Record<string, Partial<ContentProfile>> = {
  tickets: { zero: 8, squeeze: 'database' },
  'gate-log-1': { family: 'gate-log', common: 42, zero: 4, squeeze: 'text' },
  'gate-log-2': { family: 'gate-log', common: 42, zero: 4, squeeze: 'text' },
  'radar-1': { squeeze: 'media' },
  'radar-2': { squeeze: 'media' },
};

/** What time has done to drives by the morning of the demo. */
export function agedDrives(view: EstateView, now: number): Effect[] {
  const lintel = [...view.table('array').values()].find((array) => array.name === 'lintel-1')!;
  const drive = (ref: string) => lookUpDrive(view, ref, lintel.id)!;
  return [
    changed('drive', drive('0:7'), { wear: 86.4 }),
    changed('drive', drive('1:12'), { state: 'predicted', mediaErrors: 31, recentErrors: 14 }),
    ...[...view.table('raidGroup').values()].map((group) =>
      changed('raidGroup', group, { scrubbedAt: now - (group.name === 'rg-5' ? 41 : 9) * DAY }),
    ),
  ];
}

/** The estate's operations on bare hardware. */
export function demoEstate(): { estate: Estate; effects: Effect[] } {
  const hardware = bareHardware();
  const estate = new Estate();
  estate.apply(hardware);
  const effects = planOn(estate, [...carved, ...attached], 'history', LAB_START - HISTORY_DAYS * DAY);
  estate.apply(effects);
  const written = [...estate.table('volume').values()].flatMap((volume) =>
    contents[volume.name]
      ? [changed('volume', volume, { content: { ...volume.content, ...contents[volume.name] } })]
      : [],
  );
  estate.apply(written);
  // Other content comes to another size in the reduced stores.
  const newId = newIds('skarholt stores');
  const fitted = [...estate.table('pool').values()].flatMap((pool) => {
    const { effects: made } = fitStore(estate, pool, newId);
    estate.apply(made);
    return made;
  });
  return { estate, effects: [...hardware, ...effects, ...written, ...fitted] };
}

/** Effects of scenario operations. Throws where the scenario breaks a rule of its own. */
export function planOn(
  view: EstateView,
  operations: readonly OperationDocument[],
  seed: string,
  now: number,
): Effect[] {
  const plan = planChange(view, operations, { seed: `skarholt ${seed}`, now, month: '2031-04' });
  if (plan.refusals.length > 0)
    throw new Error(`The demo is refused: ${plan.refusals.map((refusal) => refusal.message).join(' ')}`);
  return plan.steps.flatMap((step) => step.effects);
}
