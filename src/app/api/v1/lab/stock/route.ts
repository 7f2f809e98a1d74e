import { stockBody } from '@/server/bodies';
import { answer, bodyJson, json } from '@/server/http';
import { fillWith } from '@/server/fill';

export const POST = (request: Request) =>
  answer(async (instance) => {
    const { what } = await bodyJson(request, stockBody);
    await fillWith(instance, what);
    return json({ filled: what }, 201);
  });
