import { deleted, type Effect } from '../estate/effects';
import type { Drive, Job, Priority, RaidGroup } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, driveOf, raidGroupOf } from '../estate/relations';
import type { NewId, WorkDone, WorkKind } from '../job/work-kind';
import type { Milliseconds } from '../units/duration';
import { tendGroup } from './tend';

/** Work on a RAID group, whose rate follows from the group, its priority and what hosts do. */
export interface GroupWork extends WorkKind {
  /** Bytes a second; `load` is what hosts make of its members, 0 to 1, where more is known than their writes. */
  rate: (view: EstateView, group: RaidGroup, priority: Priority, load?: number) => number;
}

/** What the end of a group's work does; the group is tended afterwards, for something else may be due by then. */
export const atItsEnd =
  (
    end: (at: { view: EstateView; group: RaidGroup; drive: Drive | undefined; job: Job; now: Milliseconds }) => {
      effects: Effect[];
      /** Behind the name of the group. */
      said: string;
    },
  ) =>
  (view: EstateView, job: Job, now: Milliseconds, newId: NewId): WorkDone => {
    const group = raidGroupOf(view, job)!;
    const drive = driveOf(view, job);
    const { effects: own, said } = end({ view, group, drive, job, now });
    const effects = [deleted('job', job), ...own];
    const overlay = new Overlay(view);
    overlay.apply(effects);
    const name = `${arrayOf(view, job).name} ${group.name}`;
    return { effects: [...effects, ...tendGroup(overlay, group.id, now, newId)], said: `${name} ${said}` };
  };
