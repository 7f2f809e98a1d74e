import { search } from '@/core/span/search';
import { answer, json } from '@/server/http';

export const GET = (request: Request) =>
  answer(({ plant }) => json({ items: search(plant.estate, new URL(request.url).searchParams.get('q') ?? '') }));
