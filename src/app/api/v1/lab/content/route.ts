import { contentBody } from '@/server/bodies';
import { answer, bodyJson, json } from '@/server/http';
import { setContent } from '@/server/lab';

export const POST = (request: Request) =>
  answer(async ({ plant }) => {
    const { array, volume, content } = await bodyJson(request, contentBody);
    return json(setContent(plant, array, volume, content));
  });
