import { answer, bodyJson, json } from '@/server/http';
import { queueOf } from '@/server/load-simulation';
import { queueBody } from '@/server/load-bodies';

export const POST = (request: Request) =>
  answer(async ({ plant }) => json(queueOf(plant, await bodyJson(request, queueBody))));
