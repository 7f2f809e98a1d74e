import { readFileSync } from 'node:fs';
import { operationsTable, withTable } from '@/formats/operations-table';
import { recipeTypes } from './recipes';
import { operationTypes } from './registry';

test('the document on change files tells every operation and recipe as it is: npm run docs writes it', () => {
  const text = readFileSync('docs/change-files.md', 'utf8');
  expect(withTable(text, operationsTable([...operationTypes, ...recipeTypes]))).toBe(text);
});
