import { answer } from '@/server/http';

export const GET = () =>
  answer(
    ({ plant }) =>
      new Response(plant.spanText(), { headers: { 'content-type': 'application/json', 'cache-control': 'no-store' } }),
  );
