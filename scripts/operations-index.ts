import { readdirSync, readFileSync } from 'node:fs';

/** Rooms that have operations, in the order of the chain. */
const rooms = [
  'drive',
  'raid',
  'pool',
  'volume',
  'tiering',
  'protect',
  'replicate',
  'performance',
  'service',
  'moving',
  'outside',
  'machine',
  'attach',
  'zoning',
  'target',
  'work',
  'check',
];
const CORE = 'src/core';
export const INDEX = `${CORE}/change/operations.ts`;

/** Names under which a source exports operations, in their order. */
const exported = (source: string): string[] =>
  [...source.matchAll(/^export const (\w+)(?:: OperationType<| = operation\()/gm)].map((match) => match[1]!);

interface Found {
  room: string;
  file: string;
  name: string;
}

function foundIn(room: string): Found[] {
  return readdirSync(`${CORE}/${room}`)
    .filter((file) => file.endsWith('.ts') && !file.endsWith('.test.ts'))
    .sort()
    .flatMap((file) =>
      exported(readFileSync(`${CORE}/${room}/${file}`, 'utf8')).map((name) => ({
        room,
        file: file.replace(/\.ts$/, ''),
        name,
      })),
    );
}

/**
 * The module that lists every operation a room exports. Those that `present` lists already keep their order, which is how they are offered; new
 * ones follow at the end of their room.
 */
export function operationsIndex(present: string): string {
  const place = (name: string): number => {
    const at = present.search(new RegExp(`^    ${name},$`, 'm'));
    return at < 0 ? Infinity : at;
  };
  const byRoom = rooms.map((room) => ({ room, found: foundIn(room) }));
  const files = byRoom.flatMap(({ found }) => {
    const grouped = new Map<string, string[]>();
    for (const { room, file, name } of found)
      grouped.set(`../${room}/${file}`, [...(grouped.get(`../${room}/${file}`) ?? []), name]);
    return [...grouped];
  });
  return [
    '// Written by npm run registry: every operation that a room exports.',
    ...files.map(([file, names]) => importOf(names, file)),
    '',
    '/** Operations by the room that they live in, in the order in which they are offered. */',
    '// prettier-ignore',
    'export const operationsByRoom = {',
    ...byRoom.flatMap(({ room, found }) => [
      `  ${room}: [`,
      ...[...found].sort((a, b) => place(a.name) - place(b.name) || 0).map(({ name }) => `    ${name},`),
      '  ],',
    ]),
    '} as const;',
    '',
  ].join('\n');
}

function importOf(names: readonly string[], file: string): string {
  const line = `import { ${names.join(', ')} } from '${file}';`;
  return line.length <= 120 ? line : ['import {', ...names.map((name) => `  ${name},`), `} from '${file}';`].join('\n');
}
