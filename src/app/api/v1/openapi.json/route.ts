import { answer } from '@/server/http';
import { openApi } from '@/server/openapi';

/** Written out once: it is the same as long as the program is. */
let written: string | null = null;

export const GET = () =>
  answer(
    () => new Response((written ??= JSON.stringify(openApi())), { headers: { 'content-type': 'application/json' } }),
  );
