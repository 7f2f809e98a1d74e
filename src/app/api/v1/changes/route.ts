import type { OperationDocument } from '@/core/change/registry';
import { changeBody } from '@/server/bodies';
import { answer, bodyJson, bodyText, isYaml, json, queryNumber, tagged, watching } from '@/server/http';
import { refusedProblem } from '@/server/problem';
import { readChangeText } from '@/server/texts';

export const GET = (request: Request) =>
  answer(({ changes }) => {
    const url = new URL(request.url);
    const open = queryNumber(url, 'open', 0, 1) === 1;
    return json({
      items: changes.list(queryNumber(url, 'limit', 100, 1000), queryNumber(url, 'offset', 0, 1e9), open),
      total: changes.count(open),
      tray: changes.tray(),
    });
  });

/** Prepares a change from JSON or from a change file. One whose operations are refused is answered as a problem and not kept. */
export const POST = (request: Request) =>
  answer(async ({ changes }) => {
    const prepared = async (title: string, operations: readonly OperationDocument[], origin: string) => {
      const { refusals } = await changes.preview(operations, undefined, watching(request));
      if (refusals.length > 0) throw refusedProblem(refusals);
      const change = await changes.prepare(title, operations, origin, watching(request));
      return tagged(json(change, 201), change);
    };
    if (!isYaml(request)) {
      const { title, operations } = await bodyJson(request, changeBody);
      // A browser says of its own pages that they are of this origin; a script does not.
      const ours = request.headers.get('sec-fetch-site') === 'same-origin';
      return prepared(title, operations, ours ? 'a sheet' : 'api');
    }
    const read = await readChangeText(await bodyText(request), request.signal);
    if (!read.ok) throw refusedProblem(read.refusals, 400);
    return prepared(read.title, read.operations, 'change file');
  });
