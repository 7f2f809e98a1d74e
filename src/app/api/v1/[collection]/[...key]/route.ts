import { kindOfCollection, oneOfCollection } from '@/server/collections';
import { answer, json } from '@/server/http';

export const GET = (_request: Request, { params }: { params: Promise<{ collection: string; key: string[] }> }) =>
  answer(async ({ plant }) => {
    const { collection, key } = await params;
    return json(oneOfCollection(plant.estate, kindOfCollection(collection), key.map(decodeURIComponent)));
  });
