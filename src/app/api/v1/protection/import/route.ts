import { answer, bodyText, reported, watching } from '@/server/http';
import { importCalendar } from '@/server/import-lists';

export const POST = (request: Request) =>
  answer(async (instance) => reported(await importCalendar(instance, await bodyText(request), watching(request))));
