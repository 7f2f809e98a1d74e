import { answer, bodyJson, json } from '@/server/http';
import { whatIfLoad } from '@/server/load-questions';
import { whatIfLoadBody } from '@/server/load-bodies';

export const POST = (request: Request) =>
  answer(async ({ plant }) => json(whatIfLoad(plant, await bodyJson(request, whatIfLoadBody))));
