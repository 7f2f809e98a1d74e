import { answer, bodyText, json } from '@/server/http';
import { importZoning } from '@/server/import-lists';

export const POST = (request: Request) =>
  answer(async (instance) => json(importZoning(instance, await bodyText(request)), 201));
