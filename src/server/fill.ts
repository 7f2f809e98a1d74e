import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import { emptyOf } from '@/core/estate/estate';
import type { Trabes } from './instance';
import { putUp } from './instance';
import { Problem } from './problem';
import { readSettings } from './settings';

function refuseFull({ plant }: Trabes): void {
  if (!emptyOf(plant.estate))
    throw new Problem(
      409,
      'estate-not-empty',
      'This instance holds an estate already.',
      'Start an empty one: npm run demo -- --empty.',
    );
}

/** Fills an instance that holds nothing with the demo, or with its bare machines only: wholly or not at all. */
export async function fillWith(trabes: Trabes, what: 'demo' | 'bare'): Promise<void> {
  refuseFull(trabes);
  if (what === 'bare') return trabes.plant.asOne(() => putUp(trabes, 'bare'));
  const { prepared } = readSettings();
  if (prepared) return trabes.plant.takeOver(prepared);
  // The weeks behind the demo take seconds to pass: they do so in a thread and a database of their own.
  const folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-fill-'));
  const letGo = trabes.plant.hold();
  try {
    await inThread(path.join(folder, 'demo.db'));
    refuseFull(trabes);
    trabes.plant.takeOver(path.join(folder, 'demo.db'));
  } finally {
    letGo();
    rmSync(folder, { recursive: true, force: true });
  }
}

const inThread = (file: string): Promise<void> =>
  new Promise((resolve, reject) => {
    const worker = new Worker(new URL('./fill.worker.ts', import.meta.url), { workerData: { file } });
    worker.once('error', reject);
    worker.once('exit', (code) =>
      code === 0
        ? resolve()
        : reject(new Problem(500, 'not-filled', 'The demo could not be put up.', 'Try once more.')),
    );
  });
