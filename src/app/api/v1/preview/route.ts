import { previewBody } from '@/server/bodies';
import { answer, bodyJson, json, watching } from '@/server/http';

export const POST = (request: Request) =>
  answer(async ({ changes }) => {
    const { operations } = await bodyJson(request, previewBody);
    return json(await changes.preview(operations, undefined, watching(request)));
  });
