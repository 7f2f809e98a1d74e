export const comparisons = ['is', 'is not', 'at least', 'at most', 'between', 'one of', 'none of'] as const;

/** A rule in its three parts; what a line says, and the line that parts say. */
export interface RuleParts {
  key: string;
  how: string;
  value: string;
}
export const partsOf = (line: string): RuleParts => {
  const key = line.split(' ')[0]!;
  const rest = line.slice(key.length + 1);
  const how = [...comparisons]
    .sort((a, b) => b.length - a.length)
    .find((one) => rest === one || rest.startsWith(`${one} `));
  return { key, how: how ?? 'is', value: how ? rest.slice(how.length + 1) : rest };
};
export const lineOf = ({ key, how, value }: RuleParts): string => `${key} ${how} ${value}`;
