import { answer, bodyJson, json } from '@/server/http';
import { effect } from '@/server/load-questions';
import { effectBody } from '@/server/load-bodies';

export const POST = (request: Request) =>
  answer(async ({ plant }) => json(effect(plant, await bodyJson(request, effectBody))));
