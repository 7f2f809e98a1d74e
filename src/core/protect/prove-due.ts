import type { Effect } from '../estate/effects';
import { Overlay, type EstateView } from '../estate/estate';
import type { PlanContext } from '../operation/operation';
import { unstopped } from '../units/counted';
import { coverageOf } from './coverage';
import { snapshotValidate } from './snapshot-validate';
import { subjectsOf } from './subject';

/**
 * What plans that name a host for it let be proven: of each subject whose proof is too old the newest copy is looked at there. What cannot be
 * looked at is told.
 */
export function proveDue(view: EstateView, context: PlanContext): { effects: Effect[]; said: string[] } {
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  const said: string[] = [];
  for (const plan of view.table('plan').values()) {
    const host = plan.proveAt === null ? undefined : view.table('host').get(plan.proveAt);
    if (!host || plan.proveDays === 0 || plan.paused) continue;
    for (const subject of subjectsOf(overlay, plan)) {
      const { short, newest } = coverageOf(overlay, subject, context.now);
      if (!newest || !short.some(({ code }) => code === 'not-proven')) continue;
      const [volume] = subject.volumes;
      const named = subject.workload
        ? { workload: subject.workload.name }
        : { array: overlay.table('array').get(volume!.array)!.name, volume: volume!.name };
      const result = snapshotValidate.plan(overlay, { ...named, copy: newest.cut, host: host.name }, context);
      if (!result.ok) {
        said.push(
          `${plan.name}: ${newest.name} of ${subject.name} is not proven: ${unstopped(result.refusals[0]!.message)}`,
        );
        continue;
      }
      overlay.apply(result.step.effects);
      effects.push(...result.step.effects);
      said.push(`${plan.name}: ${result.step.title}`);
    }
  }
  return { effects, said };
}
