// Lists the kinds that are declared and the operations that rooms export, so that a new one needs no entry by hand.
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { KINDS, kindsIndex } from './kinds-index';
import { INDEX, operationsIndex } from './operations-index';

for (const [file, list] of [
  [KINDS, kindsIndex],
  [INDEX, operationsIndex],
] as const)
  writeFileSync(file, list(existsSync(file) ? readFileSync(file, 'utf8') : ''));
