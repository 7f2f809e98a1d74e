import { fileBody } from '@/server/bodies';
import { answer, bodyJson, json } from '@/server/http';
import { changeFile } from '@/server/lab';

export const POST = (request: Request) =>
  answer(async ({ plant }) => json(changeFile(plant, await bodyJson(request, fileBody))));
