import { advanceBody } from '@/server/bodies';
import { answer, bodyJson, json } from '@/server/http';

export const POST = (request: Request) =>
  answer(async ({ clock, plant }) => {
    await clock.jump((await bodyJson(request, advanceBody)).seconds * 1000);
    return json(plant.lab);
  });
