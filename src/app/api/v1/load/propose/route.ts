import { answer, bodyJson, json } from '@/server/http';
import { propose } from '@/server/load-questions';
import { proposeBody } from '@/server/load-bodies';

export const POST = (request: Request) =>
  answer(async ({ plant }) => {
    const { x, y, targetS, seconds } = await bodyJson(request, proposeBody);
    return json(propose(plant, x, y, targetS, seconds));
  });
