import { readFileSync } from 'node:fs';
import { basis, estateAfter, named, smallChain } from '../../demo/workbench';
import { kindOf, kinds } from '@/core/estate/entities';
import { indexesOf } from '@/core/estate/table';
import { startedJob } from '@/core/job/work';
import type { KindDeclaration } from '@/core/kinds/kind';
import { workNames, workWords } from '@/core/kinds/work-words';
import { uniqueKeysOf } from '@/core/rules/unique';
import { allWork } from '@/core/work/all';
import { KINDS, kindsIndex } from '../../scripts/kinds-index';
import { labelKind, type Label } from './label-kind.fixture';
import { polishing } from './polish-work.fixture';
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

test('every kind that is declared is listed, and all work that takes time: npm run registry does it', () => {
  expect(kindsIndex(readFileSync(KINDS, 'utf8'))).toBe(readFileSync(KINDS, 'utf8'));
  const told = (what: (kind: (typeof kinds)[number]) => string) => new Set(kinds.map(what)).size;
  expect(told((kind) => kindOf[kind].prefix)).toBe(kinds.length);
  expect(told((kind) => kindOf[kind].path)).toBe(kinds.length);
  expect(allWork.map(({ name }) => name)).toEqual(workNames);
  for (const work of allWork) expect(workWords[work.name as keyof typeof workWords]).toEqual(work.words);
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

  test.each(['label-kind', 'polish-work'])('shows a %s that compiles', (name) => {
    const sample = readFileSync(`src/formats/${name}.fixture.ts`, 'utf8');
    expect(guide).toContain(`<!-- src/formats/${name}.fixture.ts -->\n\`\`\`ts\n${sample}\`\`\``);
  });

  test('from whose kind follow its indexes and what occurs once', () => {
    const label: Label = { id: 'lab_1', name: 'Top Left', site: 'site_a', host: null, stuckAt: 0 };
    const keys = Object.entries(indexesOf(labelKind as KindDeclaration)).map(([index, keysOf]) => [
      index,
      keysOf(label as never),
    ]);
    expect(Object.fromEntries(keys)).toEqual({
      name: ['site_a\ntop left'],
      site: ['site_a'],
      host: [],
      loose: ['site_a'],
    });
    expect(uniqueKeysOf('site', labelKind as KindDeclaration).map(({ fields, folded }) => [fields, folded])).toEqual([
      [['site', 'name'], true],
    ]);
  });

  test('whose work does what it says when it falls due', () => {
    const volume = named(estate, 'volume', 'tickets-1');
    const job = startedJob(
      { id: 'job_1', kind: 'volume-convert', array: volume.array, volume: volume.id, total: 100, rate: 10 },
      1000,
    );
    const { effects, said } = polishing.fallsDue(estate, job, 11_000, () => 'x');
    expect(said).toBe('tickets-1 is polished');
    expect(effects.map(({ kind, after }) => [kind, after && 'notes' in after ? after.notes : null])).toEqual([
      ['job', null],
      ['volume', 'polished'],
    ]);
  });

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
