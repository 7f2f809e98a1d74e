import { formBody } from '@/server/bodies';
import { answerForm } from '@/server/form';
import { answer, bodyJson, json, watching } from '@/server/http';

export const POST = (request: Request) =>
  answer(async (instance) => {
    const { do: kind, params, lens, change, before } = await bodyJson(request, formBody);
    return json(await answerForm(instance, kind, params, change ?? null, before, lens, watching(request)));
  });
