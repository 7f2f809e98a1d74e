import { fabricModels } from '@/core/trace/matrix';
import { answer, json, queryNumber } from '@/server/http';

/** Fabrics with switches, logins, zones, and who meets whom; of large ones the first, or those that are asked for. */
export const GET = (request: Request) =>
  answer(({ plant }) => {
    const url = new URL(request.url);
    return json({
      items: fabricModels(plant.estate, {
        find: url.searchParams.get('find') ?? '',
        most: queryNumber(url, 'limit', 120, 1000),
      }),
    });
  });
