import { answer, json } from '@/server/http';
import { why } from '@/server/load-questions';
import { askedMoment, askedSpan } from '@/server/load-bodies';

export const GET = (request: Request) =>
  answer(({ plant }) => {
    const asked = new URL(request.url).searchParams;
    return json(why(plant, asked.get('of') ?? '', askedSpan(asked).seconds, askedMoment(asked, 'at')));
  });
