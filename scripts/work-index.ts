import { readdirSync, readFileSync } from 'node:fs';
import type { WorkKind } from '../src/core/job/work-kind';

const CORE = '../src/core';
/** Rooms whose work takes time, from the lowest up. */
const rooms = ['raid', 'drive', 'pool', 'volume', 'tiering'];

interface Found {
  room: string;
  file: string;
  /** Under which it is exported. */
  as: string;
  work: WorkKind;
}

async function foundWork(): Promise<Found[]> {
  const found: Found[] = [];
  for (const room of rooms)
    for (const name of readdirSync(`src/core/${room}/work`).sort()) {
      if (!name.endsWith('.ts') || name.endsWith('.test.ts')) continue;
      const file = name.replace(/\.ts$/, '');
      const module = (await import(`${CORE}/${room}/work/${file}`)) as Record<string, WorkKind>;
      for (const [as, work] of Object.entries(module)) if ('fallsDue' in work) found.push({ room, file, as, work });
    }
  return found;
}

/** Names that are known keep their order, in which forms and documents tell them; new ones follow. */
const inOrder = (found: readonly Found[], present: string): Found[] => {
  const place = ({ work }: Found) => {
    const at = present.indexOf(`  '${work.name}': {`);
    return at < 0 ? Infinity : at;
  };
  return [...found].sort((a, b) => place(a) - place(b) || 0);
};

/**
 * The modules that list all work: its names and words, which every room may know; that of RAID groups, by which they are rated; and the work
 * itself, for the scheduler.
 */
export async function workIndexes(): Promise<[file: string, text: string][]> {
  const names = 'src/core/kinds/work-words.ts';
  const found = inOrder(await foundWork(), readFileSync(names, 'utf8'));
  const quoted = (text: string) => `'${text}'`;
  return [
    [
      names,
      [
        '// Written by npm run registry: work that takes time, and how it is called.',
        '',
        'export const workWords = {',
        ...found.flatMap(({ work }) => [
          `  '${work.name}': {`,
          ...Object.entries(work.words).map(([word, text]) => `    ${word}: ${quoted(text)},`),
          '  },',
        ]),
        '} as const;',
        '',
        'export const workNames = Object.keys(workWords) as [keyof typeof workWords];',
        '',
      ].join('\n'),
    ],
    [
      'src/core/raid/works.ts',
      list(
        'work on RAID groups',
        'groupWork',
        found.filter(({ room }) => room === 'raid').map((one) => ({ ...one, from: `./work/${one.file}` })),
      ),
    ],
    [
      'src/core/work/all.ts',
      list(
        'all work that takes time',
        'allWork',
        found.map((one) => ({ ...one, from: `../${one.room}/work/${one.file}` })),
      ),
    ],
  ];
}

const list = (what: string, name: string, found: readonly (Found & { from: string })[]): string =>
  [
    `// Written by npm run registry: ${what}.`,
    ...found.map(({ as, from }) => `import { ${as} } from '${from}';`),
    '',
    '// prettier-ignore',
    `export const ${name} = [`,
    ...found.map(({ as }) => `  ${as},`),
    '] as const;',
    '',
  ].join('\n');
