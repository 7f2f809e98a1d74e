import { writeChangeFile } from '@/formats/change-file';
import { reviseBody } from '@/server/bodies';
import { answer, bodyJson, json, text } from '@/server/http';

interface Context {
  params: Promise<{ id: string }>;
}

export const GET = (request: Request, { params }: Context) =>
  answer(async ({ changes }) => {
    const change = changes.view((await params).id);
    if (new URL(request.url).searchParams.get('format') !== 'yaml') return json(change);
    const fileName = `${
      change.title
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, '-')
        .replace(/^-|-$/g, '') || 'change'
    }.yaml`;
    return text(writeChangeFile(change.title, change.operations), 'application/yaml', fileName);
  });

export const PATCH = (request: Request, { params }: Context) =>
  answer(async ({ changes }) => json(changes.revise((await params).id, await bodyJson(request, reviseBody))));

export const DELETE = (_request: Request, { params }: Context) =>
  answer(async ({ changes }) => {
    changes.discard((await params).id);
    return new Response(null, { status: 204 });
  });
