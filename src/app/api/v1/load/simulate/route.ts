import { answer, bodyJson, json } from '@/server/http';
import { simulateBody } from '@/server/load-bodies';
import { simulateLoad } from '@/server/load-simulation';

export const POST = (request: Request) =>
  answer(async ({ plant }) => json(await simulateLoad(plant, await bodyJson(request, simulateBody), request.signal)));
