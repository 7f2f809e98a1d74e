import { brokenRules } from '@/core/rules/book';
import { estateFromDocument, estateToDocument, rowsOfDocument, type EstateDocument } from '@/core/estate/document';
import { created } from '@/core/estate/effects';
import { emptyOf } from '@/core/estate/estate';
import { readEstate } from '@/formats/estate-file';
import type { Plant } from './plant';
import { Problem, refusedProblem } from './problem';

export const exportEstate = (plant: Plant): EstateDocument => estateToDocument(plant.estate);

/** Takes a whole estate into an instance that holds none; nothing is taken unless every rule holds. */
export function importEstate(plant: Plant, text: string, yaml: boolean): { rows: number } {
  if (!emptyOf(plant.estate))
    throw new Problem(
      409,
      'estate-not-empty',
      'This instance holds an estate already.',
      'Import into an empty instance: npm run demo -- --empty.',
    );
  const read = readEstate(text, yaml);
  if (!read.ok) throw refusedProblem(read.refusals);
  let broken: string[];
  try {
    const estate = estateFromDocument(read.document);
    broken = brokenRules(estate);
    if (broken.length === 0) {
      const effects = [...rowsOfDocument(read.document)].map(({ kind, row }) => created(kind, row));
      plant.replaceEstate(estate, effects, `Estate imported: ${effects.length} rows`);
      return { rows: effects.length };
    }
  } catch (error) {
    broken = [error instanceof Error ? error.message : String(error)];
  }
  throw refusedProblem(
    broken.slice(0, 20).map((message) => ({
      code: 'estate-inconsistent',
      subject: { kind: 'document', name: 'estate' },
      message,
      mend: 'Correct the document; nothing of it was taken.',
    })),
  );
}
