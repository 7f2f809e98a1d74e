import { estateToDocument } from '@/core/estate/document';
import { estateAfter, mounted, smallChain } from '../../demo/workbench';
import { readChangeFile, writeChangeFile } from './change-file';
import { readEstate, writeEstateYaml } from './estate-file';
import { readHostsCsv } from './hosts-csv';

describe('change files', () => {
  const code = (text: string) => {
    const read = readChangeFile(text);
    return read.ok ? 'ok' : read.refusals[0]!.code;
  };
  test('read back what was written', () => {
    const read = readChangeFile(writeChangeFile('A chain', smallChain));
    expect(read).toEqual({ ok: true, title: 'A chain', operations: smallChain });
  });
  test.each([
    ['title: x\noperations:\n  - do: host.rescan\n    host: a', 'ok'],
    ['title: "x', 'broken-yaml'],
    ['title: x\ntitle: y', 'broken-yaml'],
    ['- a\n- b', 'not-a-change'],
    ['', 'not-a-change'],
    ['title: x', 'not-a-change'],
    ['title: x\noperations: []', 'not-a-change'],
    ['title: x\noperations: [{host: a}]', 'not-a-change'],
    ['trabes: 2\ntitle: x\noperations: [{do: a}]', 'not-a-change'],
    ['title: x\nsteps: 1\noperations: [{do: a}]', 'not-a-change'],
  ])('%j is %s', (text, expected) => expect(code(text)).toBe(expected));
  test('say where they break', () => {
    const read = readChangeFile('title: x\noperations:\n  - do: [');
    expect(!read.ok && read.refusals[0]!.message).toMatch(/^Line \d+, column \d+: /);
  });
});

describe('estates', () => {
  const document = estateToDocument(estateAfter(mounted));
  test('read back from YAML and JSON', () => {
    expect(readEstate(writeEstateYaml(document), true)).toEqual({ ok: true, document });
    expect(readEstate(JSON.stringify(document), false)).toEqual({ ok: true, document });
  });
  test.each([
    ['{', false, 'broken-json'],
    ['a: [', true, 'broken-yaml'],
    ['{"trabes":1,"estate":{"pool":[{"id":"p"}]}}', false, 'not-an-estate'],
    ['{"trabes":1,"estate":{"pools":[]}}', false, 'not-an-estate'],
  ])('%s is refused', (text, yaml, code) =>
    expect(readEstate(text, yaml)).toMatchObject({
      ok: false,
      refusals: expect.arrayContaining([expect.objectContaining({ code })]) as unknown,
    }),
  );
});

describe('lists of hosts', () => {
  const header = 'Name,CLUSTER,Site,Operating System,Initiators,Interface_Addresses,Rack';
  test('header names in any case, several initiators in a cell, interfaces named or not', () => {
    const read = readHostsCsv(
      `\uFEFF${header}\r\nrota-1,crew,Nordkai,Linux,"iqn.a:x; iqn.a:y",eth2=10.40.1.71/24 10.40.2.71/24,R7\r\n`,
    );
    expect(read).toEqual({
      ok: true,
      ignored: ['Rack'],
      lines: [
        {
          line: 2,
          name: 'rota-1',
          problems: [],
          operation: {
            do: 'host.create',
            name: 'rota-1',
            os: 'linux',
            site: 'Nordkai',
            cluster: 'crew',
            initiators: ['iqn.a:x', 'iqn.a:y'],
            interfaces: [
              { name: 'eth2', addresses: ['10.40.1.71/24'] },
              { name: 'eth1', addresses: ['10.40.2.71/24'] },
            ],
          },
        },
      ],
    });
  });
  test('a line that lacks something says what, and keeps its number past blank and long lines', () => {
    const read = readHostsCsv(`${header}\n\n"a\nb",,Nordkai,linux,,\n,,,mainframe,,`);
    expect(read.ok && read.lines.map((line) => [line.line, line.problems.length])).toEqual([
      [3, 0],
      [5, 3],
    ]);
  });
  test.each([
    ['', 'The file is empty.'],
    ['name,os\na,linux', 'The header line names no site.'],
    [header, 'The file has a header line and no host.'],
  ])('%j is no list', (text, message) => expect(readHostsCsv(text)).toMatchObject({ ok: false, message }));
});
