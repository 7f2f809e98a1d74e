import { readChangeFile } from '@/formats/change-file';
import { changeBody } from '@/server/bodies';
import { answer, bodyJson, bodyText, isYaml, json, queryNumber } from '@/server/http';
import { refusedProblem } from '@/server/problem';

export const GET = (request: Request) =>
  answer(({ changes }) => {
    const url = new URL(request.url);
    return json({
      items: changes.list(queryNumber(url, 'limit', 100, 1000), queryNumber(url, 'offset', 0, 1e9)),
      tray: changes.tray(),
    });
  });

/** Prepares a change from JSON or from a change file. A file whose operations are refused is answered as a problem and not kept. */
export const POST = (request: Request) =>
  answer(async ({ changes }) => {
    if (!isYaml(request)) {
      const { title, operations } = await bodyJson(request, changeBody);
      return prepared(changes.preview(operations).refusals, () => changes.prepare(title, operations, 'api'));
    }
    const read = readChangeFile(await bodyText(request));
    if (!read.ok) throw refusedProblem(read.refusals, 400);
    return prepared(changes.preview(read.operations).refusals, () =>
      changes.prepare(read.title, read.operations, 'change file'),
    );
  });

function prepared(refusals: Parameters<typeof refusedProblem>[0], keep: () => unknown): Response {
  if (refusals.length > 0) throw refusedProblem(refusals);
  return json(keep(), 201);
}
