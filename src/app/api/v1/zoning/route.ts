import { zoningCsv, zoningEntries, zoningJson } from '@/formats/zoning-file';
import { answer, text } from '@/server/http';

/** Aliases and zones as they are defined. */
export const GET = (request: Request) =>
  answer(({ plant }) => {
    const query = new URL(request.url).searchParams;
    const entries = zoningEntries(plant.estate, query.get('fabric') ?? undefined);
    return query.get('format') === 'csv'
      ? text(zoningCsv(entries), 'text/csv', 'zoning.csv')
      : text(zoningJson(entries), 'application/json', 'zoning.json');
  });
