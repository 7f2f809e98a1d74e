import { ioBody } from '@/server/bodies';
import { answer, bodyJson, json } from '@/server/http';
import { doIo } from '@/server/lab';

export const POST = (request: Request) =>
  answer(async ({ plant }) => json(doIo(plant, await bodyJson(request, ioBody))));
