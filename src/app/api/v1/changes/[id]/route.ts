import { writeChangeFile } from '@/formats/change-file';
import { reviseBody } from '@/server/bodies';
import { answer, bodyJson, json, seenRevision, tagged, text, watching } from '@/server/http';

interface Context {
  params: Promise<{ id: string }>;
}

export const GET = (request: Request, { params }: Context) =>
  answer(async ({ changes }) => {
    const change = await changes.view((await params).id, watching(request));
    if (new URL(request.url).searchParams.get('format') !== 'yaml') return tagged(json(change), change);
    const fileName = `${
      change.title
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, '-')
        .replace(/^-|-$/g, '') || 'change'
    }.yaml`;
    return text(writeChangeFile(change.title, change.operations), 'application/yaml', fileName);
  });

/** With If-Match, a draft that somebody else has revised meanwhile is left as it is. */
export const PATCH = (request: Request, { params }: Context) =>
  answer(async ({ changes }) => {
    const revised = await bodyJson(request, reviseBody);
    const change = await changes.revise((await params).id, revised, seenRevision(request), watching(request));
    return tagged(json(change), change);
  });

export const DELETE = (request: Request, { params }: Context) =>
  answer(async ({ changes }) => {
    changes.discard((await params).id, seenRevision(request));
    return new Response(null, { status: 204 });
  });
