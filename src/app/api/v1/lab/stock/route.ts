import { stockBody } from '@/server/bodies';
import { answer, bodyJson, json } from '@/server/http';
import { fillWith } from '@/server/instance';

export const POST = (request: Request) =>
  answer(async (instance) => {
    const { what } = await bodyJson(request, stockBody);
    fillWith(instance, what);
    return json({ filled: what }, 201);
  });
