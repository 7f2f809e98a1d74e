import { answer, json } from '@/server/http';
import { room } from '@/server/load-room';

export const GET = (request: Request) =>
  answer(async ({ plant }) =>
    json(await room(plant, new URL(request.url).searchParams.get('array') ?? '', { signal: request.signal })),
  );
