import { answer, bodyText, json } from '@/server/http';
import { importHosts } from '@/server/import-lists';

export const POST = (request: Request) =>
  answer(async (instance) => json(importHosts(instance, await bodyText(request)), 201));
