import { kindOfCollection, oneOfCollection } from '@/server/collections';
import { answer, json } from '@/server/http';

/** A part of the path as a name: what is no percent-encoding is taken as it stands. */
function decoded(part: string): string {
  try {
    return decodeURIComponent(part);
  } catch {
    return part;
  }
}

export const GET = (_request: Request, { params }: { params: Promise<{ collection: string; key: string[] }> }) =>
  answer(async ({ plant }) => {
    const { collection, key } = await params;
    return json(plant.vault.veiledRow(oneOfCollection(plant.estate, kindOfCollection(collection), key.map(decoded))));
  });
