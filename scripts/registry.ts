// Lists the kinds that are declared, the work that takes time and the operations that rooms export, so that a new one needs no entry by hand.
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { KINDS, kindsIndex } from './kinds-index';
import { INDEX, operationsIndex } from './operations-index';
import { workIndexes } from './work-index';

const present = (file: string): string => (existsSync(file) ? readFileSync(file, 'utf8') : '');

writeFileSync(KINDS, kindsIndex(present(KINDS)));
writeFileSync(INDEX, operationsIndex(present(INDEX)));
for (const [file, text] of await workIndexes()) writeFileSync(file, text);
