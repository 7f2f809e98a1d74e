import { answer, json } from '@/server/http';
import { fleet } from '@/server/load-fleet';
import { askedSpan } from '@/server/load-bodies';

export const GET = (request: Request) =>
  answer(({ plant }) => {
    const { seconds, until } = askedSpan(new URL(request.url).searchParams);
    return json(fleet(plant, seconds, until));
  });
