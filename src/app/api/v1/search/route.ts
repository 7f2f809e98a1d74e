import { searching } from '@/core/span/search';
import { answer, json } from '@/server/http';
import { inSlices } from '@/server/slices';

export const GET = (request: Request) =>
  answer(async ({ plant }) => {
    const text = new URL(request.url).searchParams.get('q') ?? '';
    return json({ items: await inSlices(searching(plant.estate, text)) });
  });
