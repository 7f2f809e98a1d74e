import { advanceBody } from '@/server/bodies';
import { answer, bodyJson, json } from '@/server/http';

export const POST = (request: Request) =>
  answer(async ({ clock, plant }) => {
    clock.advance((await bodyJson(request, advanceBody)).seconds * 1000);
    return json(plant.lab);
  });
