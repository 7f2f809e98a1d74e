import { lanesInParts, type ProtectionAnswer } from '@/core/protect/lanes';
import { plansInParts } from '@/core/protect/plans-view';
import { pointView, subjectView, type PointView } from '@/core/protect/subject-view';
import {
  elsewhereOf,
  replicationRows,
  replicationView,
  siteLinkRows,
  witnessRows,
  type ElsewhereAnswer,
  type ReplicationView,
  type SubjectAnswer,
} from '@/core/replicate/replication-view';
import { siteLostReport } from '@/core/replicate/site-lost-report';
import { drillReport } from '@/core/replicate/drill-report';
import { drillViews } from '@/core/replicate/drill-view';
import type { LineDay } from '@/core/replicate/line-day';
import { plannedDay, replicationPlan, type ReplicationPlan } from '@/core/replicate/plan-view';
import { partnerRows } from '@/core/replicate/partner-view';
import { recurrenceOf } from '@/core/protect/due';
import { siteLost } from '@/core/replicate/site-lost';
import { writeCalendar } from '@/formats/icalendar';
import { DAY, MINUTE, SECOND, type Milliseconds } from '@/core/units/duration';
import type { InParts } from '@/core/units/in-parts';
import type { Plant } from './plant';
import { Problem } from './problem';
import { ofOneMoment, type Watching } from './slices';

let shown: { plant: Plant; version: number; minute: number; view: ProtectionAnswer } | null = null;

function* workOut(plant: Plant): InParts<ProtectionAnswer> {
  const { version, lab } = plant;
  const lanes = yield* lanesInParts(plant.estate, lab.now);
  const plans = yield* plansInParts(plant.estate, lab.now);
  return { version, now: lab.now, lanes, plans };
}

/** What is protected and how well, worked out once for each state of the estate and each minute of the lab. */
export async function protectionView(plant: Plant): Promise<ProtectionAnswer> {
  const minute = Math.floor(plant.lab.now / MINUTE);
  let found = shown;
  if (found?.plant !== plant || found.version !== plant.version || found.minute !== minute) {
    const view = await ofOneMoment(plant, () => workOut(plant));
    shown = found = { plant, version: view.version, minute, view };
  }
  return found.view;
}

export function subjectAnswer(plant: Plant, id: string): SubjectAnswer {
  const found = subjectView(plant.estate, id, plant.lab.now);
  if (!found) throw new Problem(404, 'subject-unknown', `There is no workload or volume ${id}.`, 'Name it by its id.');
  const { elsewhere, images } = elsewhereOf(plant.estate, found, plant.lab.now);
  return { ...found, elsewhere, images };
}

/** What stands at other sites, and the lines that lead there. */
export const elsewhereView = ({ estate, lab }: Plant): ElsewhereAnswer => ({
  now: lab.now,
  replications: replicationRows(estate, lab.now),
  links: siteLinkRows(estate, lab.now),
  partners: partnerRows(estate),
  witnesses: witnessRows(estate),
  drills: drillViews(estate),
  loss: siteLost(estate, lab.now),
});

const nothingToPlan = () =>
  new Problem(
    404,
    'nothing-to-plan',
    'No link leads from where there is something to copy.',
    'Note a link between two sites first.',
  );

/** A replication before there is one. */
export function planAnswer({ estate }: Plant, of: string, link: string): ReplicationPlan {
  const found = replicationPlan(estate, of, link);
  if (!found) throw nothingToPlan();
  return found;
}

/** The scarcest day of its line with it, cycle by cycle. */
export async function planDayAnswer(
  plant: Plant,
  asked: { of: string; link: string; rpo: Milliseconds },
  watching: Watching,
): Promise<LineDay> {
  if (!(asked.rpo >= SECOND && asked.rpo <= DAY))
    throw new Problem(
      400,
      'recovery-point-out-of-range',
      'A recovery point between 1 s and a day is needed.',
      'Write it in milliseconds, such as 600000 for 10 min.',
    );
  const found = await ofOneMoment(plant, () => plannedDay(plant.estate, { ...asked, now: plant.lab.now }), watching);
  if (!found) throw nothingToPlan();
  return found;
}

export function replicationAnswer({ estate, lab }: Plant, id: string): ReplicationView {
  const found = replicationView(estate, id, lab.now);
  if (!found) throw new Problem(404, 'replication-unknown', `There is no replication ${id}.`, 'Name it by its id.');
  return found;
}

export function pointAnswer(plant: Plant, id: string, cut: string): PointView {
  const found = pointView(plant.estate, id, cut);
  if (!found) throw new Problem(404, 'restore-snapshot-missing', 'This copy is gone.', 'Choose another one.');
  return found;
}

/** What the loss of a site would leave, as a document. */
export function siteLostDocument({ estate, lab }: Plant, site: string): { name: string; text: string } {
  const text = siteLostReport(estate, site, lab.now);
  if (text === null)
    throw new Problem(
      404,
      'site-unknown',
      `No array stands at ${site || 'a site without a name'}.`,
      'Name a site with an array.',
    );
  return { name: `were-${site.toLowerCase().replace(/[^a-z0-9]+/g, '-')}-lost`, text };
}

/** The report of a drill as a document. */
export function drillDocument({ estate }: Plant, id: string): { name: string; text: string } {
  const drill = estate.table('drill').get(id);
  if (!drill) throw new Problem(404, 'drill-unknown', `There is no drill ${id}.`, 'Name it by its id.');
  return { name: drill.name, text: drillReport(drill) };
}

/** The schedules of all plans as a calendar. */
export const planCalendar = ({ estate, lab }: Plant): string =>
  writeCalendar(
    [...estate.table('plan').values()].flatMap((plan) =>
      plan.schedules.map((schedule) => ({
        uid: `${plan.id}-${schedule.name}`,
        summary: `${plan.name}: ${schedule.name}`,
        recurrence: recurrenceOf(plan, schedule),
      })),
    ),
    lab.now,
  );
