import { answer, json } from '@/server/http';
import { subjectLoad } from '@/server/load-subject';
import { askedSpan } from '@/server/load-bodies';

export const GET = (request: Request) =>
  answer(({ plant }) => {
    const asked = new URL(request.url).searchParams;
    const { seconds, until } = askedSpan(asked);
    return json(subjectLoad(plant, asked.get('of') ?? '', seconds, until));
  });
