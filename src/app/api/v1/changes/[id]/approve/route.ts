import { approveBody } from '@/server/bodies';
import { answer, bodyJson, json, seenRevision, tagged, watching } from '@/server/http';

/** With If-Match, a draft that somebody else has revised meanwhile is not approved. */
export const POST = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(async ({ changes }) => {
    const terms = await bodyJson(request, approveBody);
    const change = await changes.night.approve((await params).id, terms, seenRevision(request), watching(request));
    return tagged(json(change, 202), change);
  });
