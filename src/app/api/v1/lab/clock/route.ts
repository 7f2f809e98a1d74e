import { clockBody } from '@/server/bodies';
import { answer, bodyJson, json } from '@/server/http';

export const POST = (request: Request) =>
  answer(async ({ clock, plant }) => {
    clock.setSpeed((await bodyJson(request, clockBody)).speed);
    return json(plant.lab);
  });
