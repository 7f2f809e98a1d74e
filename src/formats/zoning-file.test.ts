import { LAB_START } from '../../demo/hardware';
import { demoEstate } from '../../demo/scenario';
import { basis, carryOut } from '../../demo/workbench';
import { planChange } from '@/core/change/plan';
import { Overlay } from '@/core/estate/estate';
import { topology } from '@/core/trace/topology';
import { graphml } from './graphml';
import { inOrder, operationFor, readZoning, zoningCsv, zoningEntries, zoningJson } from './zoning-file';

const { estate: demo } = demoEstate();
const entries = zoningEntries(demo);

test('both forms hold every alias and zone, and are read again as they were', () => {
  expect(entries).toHaveLength(demo.table('alias').size + demo.table('zone').size);
  for (const text of [zoningCsv(entries), zoningJson(entries)]) {
    const read = readZoning(text);
    if (!read.ok) throw new Error(read.message);
    expect(read.lines.map((line) => line.entry)).toEqual(entries);
    // What is there already needs no operation.
    expect(read.lines.flatMap((line) => operationFor(demo, line.entry!) ?? [])).toEqual([]);
  }
});

test('one fabric by itself', () => {
  const some = zoningEntries(demo, 'A');
  expect(new Set(some.map((entry) => entry.fabric))).toEqual(new Set(['A']));
  expect(some.length).toBeLessThan(entries.length);
});

test('new names are made, others changed; aliases come before the zones that use them', () => {
  const text = `fabric,what,name,kind,members,principals
A,zone,rota_zone,,rota_hba0; lintel-1_a0,
A,alias,rota_hba0,,50:00:0a:66:d4:00:00:01,
A,zone,deck_pair,,deck-1_hba0; lintel-1_a2,`;
  const read = readZoning(text);
  if (!read.ok) throw new Error(read.message);
  const operations = inOrder(read.lines).flatMap((line) => operationFor(demo, line.entry!) ?? []);
  expect(operations.map((one) => one.do)).toEqual(['alias.create', 'zone.create', 'zone.configure']);
  const { refusals, overlay } = planChange(demo, operations, basis);
  expect(refusals).toEqual([]);
  expect(zoningEntries(overlay, 'A').find((entry) => entry.name === 'deck_pair')!.members).toEqual([
    'deck-1_hba0',
    'lintel-1_a2',
  ]);
});

test('what cannot be read is told with its line', () => {
  const read = readZoning('fabric,what,name,members\nA,zone,x,a\nA,thing,y,b\n,alias,z,c');
  if (!read.ok) throw new Error(read.message);
  expect(read.lines.map((line) => [line.line, line.problem === null])).toEqual([
    [2, true],
    [3, false],
    [4, false],
  ]);
  expect(read.lines[1]!.problem!.message).toContain('What must be one of alias, zone');
});

test.each([
  ['', 'empty'],
  ['name,members\nx,y', 'names no fabric, no what'],
  ['fabric,what,name,members\n', 'nothing below'],
  ['{"entries": []}', 'no entries'],
  ['{"entries": [', 'no JSON'],
])('%j is refused', (text, why) => {
  const read = readZoning(text);
  expect(read.ok ? '' : read.message).toContain(why);
});

test('the export of one estate makes another the same', () => {
  const overlay = new Overlay(demo);
  const zones = [...demo.table('zone').values()].filter((zone) => zone.name === 'deck_pair');
  const estate = demoEstate().estate;
  carryOut(estate, [{ do: 'zone.delete', fabric: 'A', name: 'deck_pair' }]);
  const missing = entries.flatMap((entry) => operationFor(estate, entry) ?? []);
  expect(missing.map((one) => one.name)).toEqual(['deck_pair']);
  carryOut(estate, missing);
  expect(zoningEntries(estate)).toEqual(entries);
  expect([zones.length, overlay.table('zone').size]).toEqual([1, demo.table('zone').size]);
});

test('GraphML names nodes and edges with typed facts, and is well formed', () => {
  const model = topology(demo, LAB_START);
  const text = graphml({
    ...model,
    nodes: [...model.nodes, { ...model.nodes[0]!, id: 'x', name: 'a<b & "c"' }],
  });
  expect(text.match(/<node /g)).toHaveLength(model.nodes.length + 1);
  expect(text.match(/<edge /g)).toHaveLength(model.edges.length);
  expect(text).toContain('<key id="edge-capacity" for="edge" attr.name="capacity" attr.type="double"/>');
  expect(text).toContain('a&lt;b &amp; &quot;c&quot;');
  const opened = [...text.matchAll(/<(\w+)(?=[\s>])[^>]*[^/]>|<(\w+)>/g)].length;
  expect(opened).toBe([...text.matchAll(/<\/\w+>/g)].length);
});
