import { answer, bodyText, reported, watching } from '@/server/http';
import { importTrace } from '@/server/import-lists';

export const POST = (request: Request) =>
  answer(async (instance) => reported(await importTrace(instance, await bodyText(request), watching(request))));
