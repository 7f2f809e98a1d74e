import { readdirSync, readFileSync } from 'node:fs';

const FOLDER = 'src/core/kinds';
export const KINDS = `${FOLDER}/all.ts`;

/**
 * The module that lists every kind declared in the folder. Kinds that `present` lists keep their order, in which documents and databases hold
 * them; new ones follow at the end.
 */
export function kindsIndex(present: string): string {
  const place = (name: string): number => {
    const at = present.search(new RegExp(`^  ${name}: ${name}Kind,$`, 'm'));
    return at < 0 ? Infinity : at;
  };
  const found = readdirSync(FOLDER)
    .filter((file) => file.endsWith('.ts') && !file.endsWith('.test.ts'))
    .sort()
    .flatMap((file) =>
      [...readFileSync(`${FOLDER}/${file}`, 'utf8').matchAll(/^export const (\w+)Kind = kind\(/gm)].map((match) => ({
        file: file.replace(/\.ts$/, ''),
        name: match[1]!,
      })),
    );
  return [
    '// Written by npm run registry: every kind of row that the estate holds.',
    ...found.map(({ file, name }) => `import { ${name}Kind } from './${file}';`),
    '',
    "export * from './fields';",
    ...found.map(({ file }) => `export * from './${file}';`),
    '',
    'export const declarations = {',
    ...[...found].sort((a, b) => place(a.name) - place(b.name) || 0).map(({ name }) => `  ${name}: ${name}Kind,`),
    '} as const;',
    '',
  ].join('\n');
}
