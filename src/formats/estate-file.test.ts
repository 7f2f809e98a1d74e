import { slots } from '../../demo/names';
import { differences, estateAfter, mounted } from '../../demo/workbench';
import { brokenRules } from '@/core/rules/book';
import { estateFromDocument, estateToDocument } from '@/core/estate/document';
import { readEstate, writeEstateYaml } from './estate-file';

const estate = estateAfter([
  ...mounted,
  { do: 'raid-group.create', array: 'lintel-1', name: 'rg-m', level: 'raid10', drives: slots(1, 0, 7) },
  { do: 'raid-group.create', array: 'lintel-1', name: 'rg-z', level: 'raid0', drives: slots(1, 8, 9) },
]);

test('an estate goes through YAML unchanged, without anchors', () => {
  const text = writeEstateYaml(estateToDocument(estate));
  expect(text).not.toMatch(/[&*]a\d/);
  const read = readEstate(text, true);
  if (!read.ok) throw new Error(read.refusals[0]!.message);
  expect(differences(estateFromDocument(read.document), estate)).toEqual([]);
});

test('a document of before is brought up: shapes, jobs and file systems follow from the rest', () => {
  const { estate: rows } = JSON.parse(JSON.stringify(estateToDocument(estate))) as {
    estate: Record<string, Record<string, unknown>[]>;
  };
  const without = (kind: string, ...fields: string[]) =>
    (rows[kind] = rows[kind]!.map((row) =>
      Object.fromEntries(Object.entries(row).filter(([name]) => !fields.includes(name))),
    ));
  without(
    'raidGroup',
    'copies',
    'legs',
    'data',
    'parity',
    'spareColumns',
    'seed',
    'moved',
    'priority',
    'draining',
    'scrubbedAt',
  );
  without('job', 'asOf', 'total', 'done', 'rate', 'priority', 'partners', 'pool', 'volume');
  without('hostDevice', 'fileSystemSize', 'free');
  without('volume', 'holes', 'reducedTo', 'content', 'blockSize', 'deletedAt', 'createdAt');
  without('extent', 'store');
  delete rows.workload;
  delete rows.mute;
  const read = readEstate(JSON.stringify({ trabes: 1, estate: rows }), false);
  if (!read.ok) throw new Error(read.refusals[0]!.message);
  const back = estateFromDocument(read.document);
  expect(brokenRules(back)).toEqual([]);
  const shapes = (of: typeof estate) =>
    [...of.table('raidGroup').values()].map(({ name, copies, legs, data, parity }) => ({
      name,
      copies,
      legs,
      data,
      parity,
    }));
  expect(shapes(back)).toEqual(expect.arrayContaining(shapes(estate)));
  const reaches = (of: typeof estate) => [...of.table('hostDevice').values()].map((row) => row.fileSystemSize).sort();
  expect(reaches(back)).toEqual(reaches(estate));
});

test.each([
  ['not-an-estate', '[]', false],
  ['not-an-estate', '{"trabes": 1, "estate": {"raidGroup": [7]}}', false],
  ['broken-json', '{', false],
  ['broken-yaml', 'a: [', true],
])('%s is refused in words', (code, text, yaml) => {
  const read = readEstate(text, yaml);
  expect(read.ok ? 'taken' : read.refusals[0]!.code).toBe(code);
});
