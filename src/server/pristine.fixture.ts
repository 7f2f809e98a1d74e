import { mkdtempSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { copyDemo, preparedDemo } from '../../scripts/prepared-demo';

/** Makes the demo as it begins, once for all tests. */
export const makePristine = (): void => void preparedDemo();

/** A copy of it with its key, in a folder of its own unless one is named. */
export function copyPristine(
  folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-copy-')),
  name = 'a',
): { folder: string; file: string } {
  const file = path.join(folder, `${name}.db`);
  copyDemo(file, true);
  return { folder, file };
}
