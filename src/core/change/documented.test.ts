import { readFileSync } from 'node:fs';
import { recipeTypes } from './recipes';
import { operationTypes } from './registry';

test('the document on change files names every operation and recipe', () => {
  const text = readFileSync('docs/change-files.md', 'utf8');
  const without = [...operationTypes, ...recipeTypes]
    .filter(({ kind }) => !text.includes(kind))
    .map(({ kind }) => kind);
  expect(without).toEqual([]);
});
