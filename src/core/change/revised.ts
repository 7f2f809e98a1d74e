import { askable, type OperationDocument } from './registry';

interface Draft {
  title: string;
  operations: readonly OperationDocument[];
}

const verbOf = (document: OperationDocument): string => (askable(document.do)?.verb ?? document.do).toLowerCase();
const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** What a revision did to a draft, in sentences. Values are left out: they may be nobody's business. */
export function revisedWords(
  before: Draft,
  after: { title: string; operations: readonly OperationDocument[] | null },
): string {
  const said: string[] = [];
  if (after.title !== before.title) said.push(`It is called "${after.title}" now.`);
  if (after.operations) {
    const gone = before.operations.filter((one) => !after.operations!.some((other) => same(one, other)));
    const come = after.operations.filter((one) => !before.operations.some((other) => same(one, other)));
    for (const one of gone) {
      const k = come.findIndex((other) => other.do === one.do);
      const [twin] = k < 0 ? [] : come.splice(k, 1);
      const place = before.operations.indexOf(one) + 1;
      if (!twin) said.push(`Operation ${place} (${verbOf(one)}) was taken out.`);
      else {
        const fields = [...new Set([...Object.keys(one), ...Object.keys(twin)])].filter(
          (field) => !same(one[field], twin[field]),
        );
        said.push(`Operation ${place} (${verbOf(one)}) has another ${fields.join(', ')}.`);
      }
    }
    for (const one of come) said.push(`Operation ${after.operations.indexOf(one) + 1} (${verbOf(one)}) was added.`);
    if (gone.length === 0 && said.length === 0 && !same(before.operations, after.operations))
      said.push('Its operations stand in another order.');
  }
  return said.join(' ') || 'Nothing in it is different.';
}
