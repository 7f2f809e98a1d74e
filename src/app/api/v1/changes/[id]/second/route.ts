import { secondBody } from '@/server/bodies';
import { answer, bodyJson, json, tagged } from '@/server/http';

export const POST = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(async ({ changes }) => {
    const said = await bodyJson(request, secondBody);
    const change = await changes.night.second((await params).id, said);
    return tagged(json(change, 202), change);
  });
