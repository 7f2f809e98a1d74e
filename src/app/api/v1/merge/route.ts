import { mergeAnswer } from '@/server/attach-views';
import { answer, json } from '@/server/http';

/** What would happen if a link joined two fabrics. */
export const GET = (request: Request) =>
  answer(({ plant }) => json(mergeAnswer(plant, new URL(request.url).searchParams)));
