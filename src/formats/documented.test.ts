import { readFileSync } from 'node:fs';
import { basis, estateAfter, smallChain } from '../../demo/workbench';
import { contextFor, planUnit } from '@/core/change/plan';
import { formSpec } from '@/core/operation/form';
import { volumeNote } from './note-volume.fixture';
import { operationsTable, withTable } from './operations-table';
import { INDEX, operationsIndex } from '../../scripts/operations-index';
import { recipeTypes } from '@/core/change/recipes';
import { operationTypes } from '@/core/change/registry';

test('the document on change files tells every operation and recipe as it is: npm run docs writes it', () => {
  const text = readFileSync('docs/change-files.md', 'utf8');
  expect(withTable(text, operationsTable([...operationTypes, ...recipeTypes]))).toBe(text);
});

test('every operation that a room exports is listed: npm run registry does it', () => {
  const present = readFileSync(INDEX, 'utf8');
  expect(operationsIndex(present)).toBe(present);
  expect(new Set(operationTypes.map(({ kind }) => kind)).size).toBe(operationTypes.length);
});

describe('the guide to adding an operation', () => {
  const guide = readFileSync('docs/adding-an-operation.md', 'utf8');
  const estate = estateAfter(smallChain);
  const context = contextFor(basis, 0, 0);
  const note = { array: 'lintel-1', volume: 'tickets-1', notes: 'moves in May' };

  test('shows an operation that compiles', () => {
    const sample = readFileSync('src/formats/note-volume.fixture.ts', 'utf8');
    expect(guide).toContain(`<!-- src/formats/note-volume.fixture.ts -->\n\`\`\`ts\n${sample}\`\`\``);
    for (const script of [...guide.matchAll(/npm run (\w+)/g)].map((match) => match[1]!))
      expect(Object.keys((JSON.parse(readFileSync('package.json', 'utf8')) as { scripts: object }).scripts)).toContain(
        script,
      );
  });

  test('whose form, document and plan follow from it alone', () => {
    const { fields } = formSpec(volumeNote);
    expect(fields.map(({ name, control }) => `${name} ${control}`)).toEqual([
      'array select',
      'volume select',
      'notes text',
    ]);
    expect(Object.keys(volumeNote.foretell(estate, note, context).fields)).toEqual(fields.map(({ name }) => name));
    expect(operationsTable([volumeNote])).toContain('`notes` (What others should know of it)');
    const one = planUnit(estate, volumeNote, note, context);
    expect(one).toMatchObject({ ok: true, step: { title: 'tickets-1: moves in May', effects: [{ kind: 'volume' }] } });
    expect(volumeNote.plan(estate, { ...note, volume: 'tickets-9' }, context)).toMatchObject({
      ok: false,
      refusals: [{ code: 'volume-unknown', field: 'volume' }],
    });
  });
});
