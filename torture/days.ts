import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { faults } from '@/core/lab/broken';
import { faultKinds, faultTable } from '@/core/lab/fault-kinds';
import { clearFault, setFault } from '@/core/lab/faults';
import { compacted } from '@/core/estate/effects';
import { newIds } from '@/core/estate/new-ids';
import { randomFrom } from '@/core/estate/random';
import { brokenRules } from '@/core/rules/book';
import { HOUR } from '@/core/units/duration';
import { openTrabes } from '@/server/instance';
import { Problem } from '@/server/problem';
import { differences } from '../demo/workbench';
import type { Figures } from './figures';
import { chance, pick, randomOperation } from './random-operation';

const DAYS = 30;

/** Thirty simulated days of a server's instance: things break and are mended, changes run, and the database says the same as memory. */
export async function days(figures: Figures, seed: string): Promise<void> {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-days-'));
  const file = path.join(folder, 'days.db');
  const random = randomFrom(`${seed} days`);
  const trabes = openTrabes(file, 'demo');
  const { plant, clock, changes } = trabes;
  clock.setSpeed(0);
  const finished: string[] = [];
  for (let part = 0; part < DAYS * 4; part++) {
    const newId = newIds(`${seed} part ${part}`);
    const view = plant.estate;
    if (chance(random, 0.5)) {
      const present = faults(view);
      const mending = present.length > 3 || (present.length > 0 && chance(random, 0.5));
      const fault = mending ? pick(random, present) : undefined;
      const kind = pick(random, faultKinds)!;
      const row = pick(random, [...view.table(faultTable(kind) ?? 'drive').values()]);
      const result = fault
        ? clearFault(view, fault.kind, fault.component, plant.lab.now, newId)
        : row && faultTable(kind)
          ? setFault(view, kind, row.id, plant.lab.now, newId)
          : null;
      if (result?.ok) {
        plant.commit({ effects: compacted(result.effects) });
        figures.add('in 30 days, faults set or mended');
      }
    }
    try {
      const operation = randomOperation(view, plant.basis(`${seed} ${part}`), random);
      const change = await changes.prepare(`Part ${part}`, [operation], 'torture');
      await changes.run(change.id);
      finished.push(change.id);
      figures.add('in 30 days, changes run');
      const old = pick(random, finished);
      if (old && chance(random, 0.3)) {
        await changes.undo(old);
        figures.add('in 30 days, changes undone');
      }
    } catch (error) {
      if (!Problem.is(error)) figures.fault('something was thrown in 30 days', (error as Error).stack ?? String(error));
    }
    clock.advance(6 * HOUR);
    for (const trouble of plant.troubles.list())
      figures.fault('the lab was in trouble', `${trouble.what}: ${trouble.message}`);
  }
  figures.add('simulated days', DAYS);
  for (const broken of brokenRules(plant.estate)) figures.fault('a rule is broken after 30 days', broken.message);
  const before = plant.estate;
  plant.close();
  const again = openTrabes(file, 'demo');
  for (const row of differences(again.plant.estate, before))
    figures.fault('database and memory differ after 30 days', row);
  again.plant.close();
  rmSync(folder, { recursive: true });
}
