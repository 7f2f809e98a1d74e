import { answer } from '@/server/http';
import { metrics } from '@/server/load-export';

/** For scrapers: OpenMetrics 1.0. */
export const GET = () =>
  answer(
    ({ plant }) =>
      new Response(metrics(plant), {
        headers: {
          'content-type': 'application/openmetrics-text; version=1.0.0; charset=utf-8',
          'cache-control': 'no-store',
        },
      }),
  );
