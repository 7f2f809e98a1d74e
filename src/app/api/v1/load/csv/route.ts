import { answer, text } from '@/server/http';
import { askedSpan } from '@/server/load-bodies';
import { loadCsv } from '@/server/load-export';

export const GET = (request: Request) =>
  answer(({ plant }) => {
    const asked = new URL(request.url).searchParams;
    const { seconds, until } = askedSpan(asked);
    return text(loadCsv(plant, asked.get('of') ?? '', seconds, until), 'text/csv', 'load.csv');
  });
