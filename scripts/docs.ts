// Writes what documents tell of operations from the operations themselves.
import { readFileSync, writeFileSync } from 'node:fs';
import { operationTypes } from '../src/core/change/registry';
import { recipeTypes } from '../src/core/change/recipes';
import { operationsTable, withTable } from '../src/formats/operations-table';

const file = 'docs/change-files.md';
writeFileSync(file, withTable(readFileSync(file, 'utf8'), operationsTable([...operationTypes, ...recipeTypes])));
