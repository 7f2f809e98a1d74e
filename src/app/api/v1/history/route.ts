import { historyOf } from '@/server/capacity';
import { answer, json } from '@/server/http';

export const GET = (request: Request) =>
  answer(({ plant }) => json(historyOf(plant, new URL(request.url).searchParams)));
