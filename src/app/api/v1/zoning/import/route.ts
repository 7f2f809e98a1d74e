import { answer, bodyText, reported, watching } from '@/server/http';
import { importZoning } from '@/server/import-lists';

export const POST = (request: Request) =>
  answer(async (instance) => reported(await importZoning(instance, await bodyText(request), watching(request))));
