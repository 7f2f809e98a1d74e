import { answer, json } from '@/server/http';
import { room } from '@/server/load-questions';

export const GET = (request: Request) =>
  answer(({ plant }) => json(room(plant, new URL(request.url).searchParams.get('array') ?? '')));
