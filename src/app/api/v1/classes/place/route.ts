import { placeBody, placeOf } from '@/server/classes';
import { answer, bodyJson, json } from '@/server/http';

export const POST = (request: Request) =>
  answer(async ({ plant }) => json(placeOf(plant, await bodyJson(request, placeBody))));
