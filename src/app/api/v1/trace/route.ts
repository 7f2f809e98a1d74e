import { lookUp } from '@/core/operation/inquiry';
import { trace } from '@/core/trace/trace';
import { answer, json } from '@/server/http';
import { Problem } from '@/server/problem';
import { volumeByRef } from '@/server/volume-ref';

/** Where the chain between a host and a volume holds, and where it breaks first. */
export const GET = (request: Request) =>
  answer(({ plant }) => {
    const query = new URL(request.url).searchParams;
    const view = plant.estate;
    const host = lookUp(view, 'host', query.get('host') ?? '');
    const volume = volumeByRef(view, query.get('volume') ?? '');
    if (!host)
      throw new Problem(
        404,
        'host-unknown',
        `There is no host named ${query.get('host') || 'nothing'}.`,
        'Give host=NAME.',
      );
    if (!volume)
      throw new Problem(
        404,
        'volume-unknown',
        `There is no volume named ${query.get('volume') || 'nothing'}.`,
        'Give volume=NAME or volume=ARRAY/NAME.',
      );
    return json(trace(view, host, volume));
  });
