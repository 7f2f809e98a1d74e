import { exportEstateText, importEstate } from '@/server/estate-transfer';
import { answer, isYaml, json } from '@/server/http';

export const GET = (request: Request) =>
  answer(async ({ plant }) => {
    const yaml = new URL(request.url).searchParams.get('format') === 'yaml';
    return new Response(await exportEstateText(plant, yaml, request.signal), {
      headers: {
        'content-type': `application/${yaml ? 'yaml' : 'json'}; charset=utf-8`,
        'content-disposition': `attachment; filename="estate.${yaml ? 'yaml' : 'json'}"`,
      },
    });
  });

/** Read as it comes in, up to a limit; taken wholly or not at all. */
export const POST = (request: Request) =>
  answer(async ({ plant }) =>
    json(
      await importEstate(plant, request.body, isYaml(request), {
        signal: request.signal,
        length: Number(request.headers.get('content-length') ?? 0),
      }),
      201,
    ),
  );
