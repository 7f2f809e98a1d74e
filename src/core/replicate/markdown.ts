const cell = (text: string): string => text.replaceAll('|', '\\|').replaceAll('\n', ' ');

/** A table in Markdown, its cells as they are. */
export const markdownTable = (head: readonly string[], rows: readonly (readonly string[])[]): string[] => [
  `| ${head.join(' | ')} |`,
  `| ${head.map(() => '---').join(' | ')} |`,
  ...rows.map((row) => `| ${row.map(cell).join(' | ')} |`),
];
