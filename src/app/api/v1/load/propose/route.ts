import { answer, bodyJson, json } from '@/server/http';
import { propose } from '@/server/load-simulation';
import { proposeBody } from '@/server/load-bodies';

export const POST = (request: Request) =>
  answer(async ({ plant }) => {
    return json(await propose(plant, await bodyJson(request, proposeBody), request.signal));
  });
