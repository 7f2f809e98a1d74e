import { consumerPage } from '@/server/classes';
import { answer, json } from '@/server/http';

export const GET = (request: Request) =>
  answer(({ plant }) => json(consumerPage(plant, new URL(request.url).searchParams.get('of') ?? '')));
