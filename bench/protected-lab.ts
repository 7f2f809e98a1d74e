import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { previewChange } from '@/core/change/preview';
import { compacted } from '@/core/estate/effects';
import { Estate } from '@/core/estate/estate';
import { lanesInParts } from '@/core/protect/lanes';
import { subjectView } from '@/core/protect/subject-view';
import { whole } from '@/core/units/in-parts';
import { DAY } from '@/core/units/duration';
import { openTrabes } from '@/server/instance';
import { protectedEstate } from './protected-estate';

/** Days of a lab in which hosts rewrite 2,000 volumes and half of them are copied every half hour, with its database; and what is read of it then. */
export function protectedLab(days: number): {
  days: number[];
  lanes: number;
  subject: number;
  restore: number;
  copies: number;
} {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-protected-'));
  const trabes = openTrabes(path.join(folder, 'lab.db'), 'empty');
  try {
    const effects = compacted(
      protectedEstate({ volumes: 2000, protectedVolumes: 1000, workloads: 250, seed: 'protected' }),
    );
    const estate = new Estate();
    estate.apply(effects);
    trabes.plant.replaceEstate(estate, effects, 'Put up');
    const timed = (work: () => unknown): number => {
      const begun = performance.now();
      work();
      return performance.now() - begun;
    };
    const passed = Array.from({ length: days }, () => timed(() => trabes.clock.advance(DAY)));
    const view = trabes.plant.estate;
    const { now } = trabes.plant.lab;
    const [workload] = view.table('workload').values();
    const [copy] = view.table('snapshot').by('workload', workload!.id);
    const restore = { do: 'snapshot.restore', workload: workload!.name, copy: copy!.name, stopped: true };
    const previewed = () => {
      const { refusals } = previewChange(view, [restore], trabes.plant.basis('bench'));
      if (refusals.length > 0) throw new Error(refusals[0]!.message);
    };
    previewed();
    return {
      restore: timed(previewed),
      days: passed,
      lanes: timed(() => whole(lanesInParts(view, now))),
      subject: timed(() => subjectView(view, workload!.id, now)),
      copies: view.table('snapshot').size,
    };
  } finally {
    trabes.plant.close();
    rmSync(folder, { recursive: true, force: true });
  }
}
