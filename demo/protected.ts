import { planChange } from '@/core/change/plan';
import type { OperationDocument } from '@/core/change/registry';
import { changed, compacted } from '@/core/estate/effects';
import type { Estate } from '@/core/estate/estate';
import { newIds } from '@/core/estate/new-ids';
import { writeTraffic } from '@/core/lab/traffic';
import { movedBy, nextMove } from '@/core/moving/pass';
import { nextPlanRun, planPass } from '@/core/protect/pass';
import { GIB } from '@/core/units/bytes';
import { HOUR, type Milliseconds } from '@/core/units/duration';
import { basis, estateAfter, mounted } from './workbench';
import { nextCycle, replicated } from '@/core/replicate/pass';

/** An estate whose time passes as the lab's does: hosts write, plans run when they are due. For tests. */
export interface Stage {
  estate: Estate;
  now: Milliseconds;
  /** Carries operations out at the present moment; throws where one is refused. */
  run: (...operations: OperationDocument[]) => void;
  /** Codes of what would be refused. */
  codes: (...operations: OperationDocument[]) => string[];
  /** Lets time pass. */
  pass: (span: Milliseconds) => string[];
}

const workload: OperationDocument[] = [
  { do: 'workload.create', name: 'Ticketing' },
  { do: 'volume.configure', array: 'lintel-1', volumes: ['tickets-1', 'tickets-2'], workload: 'Ticketing' },
  { do: 'volume.activity', array: 'lintel-1', volumes: ['tickets-1'], kind: 'database' },
  { do: 'host.application', host: 'gate-1', application: 'database', agent: true },
];

/** An estate over which time passes. */
export function stageOf(estate: Estate): Stage {
  const newId = newIds('stage');
  let turn = 0;
  const made: Stage = {
    estate,
    now: basis.now,
    run(...wanted) {
      const plan = planChange(estate, wanted, { ...basis, now: made.now, seed: `stage ${turn++}` });
      if (plan.refusals.length > 0)
        throw new Error(plan.refusals.map((one) => `${one.code}: ${one.message}`).join(' '));
      for (const step of plan.steps) estate.apply(step.effects);
    },
    codes: (...wanted) =>
      planChange(estate, wanted, { ...basis, now: made.now, seed: 'codes' }).refusals.map((one) => one.code),
    pass(span) {
      const said: string[] = [];
      const end = made.now + span;
      while (made.now < end) {
        const due = nextPlanRun(estate, made.now);
        const cycle = nextCycle(estate, made.now);
        const move = nextMove(estate, made.now);
        const next = Math.min(end, due ?? end, cycle ?? end, move ?? end);
        estate.apply(compacted(writeTraffic(estate, next - made.now, next, newId).effects));
        const done = planPass(estate, made.now, next, newId);
        estate.apply(compacted(done.effects));
        said.push(...done.said);
        const sent = replicated(estate, next, newId);
        estate.apply(compacted(sent.effects));
        const went = movedBy(estate, next, newId);
        estate.apply(compacted(went.effects));
        said.push(...went.said);
        said.push(...sent.said);
        made.now = next;
      }
      return said;
    },
  };
  return made;
}

/** A mounted volume of 40 GiB and an empty one, both of one workload, with an application that can be paused. */
export function stage(...operations: OperationDocument[]): Stage {
  const estate = estateAfter([...mounted, ...workload]);
  const made = stageOf(estate);
  const device = [...estate.table('hostDevice').values()].find((row) => row.mountPoint !== null)!;
  estate.apply([changed('hostDevice', device, { writeRate: Math.floor((40 * GIB) / 3600) })]);
  made.pass(HOUR);
  estate.apply([changed('hostDevice', estate.table('hostDevice').get(device.id)!, { writeRate: 0 })]);
  if (operations.length > 0) made.run(...operations);
  return made;
}
