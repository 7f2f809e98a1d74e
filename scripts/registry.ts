// Lists the operations that rooms export, so that a new one needs no entry by hand.
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { INDEX, operationsIndex } from './operations-index';

writeFileSync(INDEX, operationsIndex(existsSync(INDEX) ? readFileSync(INDEX, 'utf8') : ''));
