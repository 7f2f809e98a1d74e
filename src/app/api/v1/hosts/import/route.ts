import { answer, bodyText, reported, watching } from '@/server/http';
import { importHosts } from '@/server/import-lists';

export const POST = (request: Request) =>
  answer(async (instance) => reported(await importHosts(instance, await bodyText(request), watching(request))));
