import { chainOf, exists, selectableKinds, type SelectableKind } from '@/core/span/chain';
import { factsOf } from '@/core/span/facts';
import { answer, json } from '@/server/http';
import { Problem } from '@/server/problem';

export const GET = (request: Request) =>
  answer(({ plant }) => {
    const query = new URL(request.url).searchParams;
    const kind = query.get('kind') as SelectableKind;
    const selection = { kind, id: query.get('id') ?? '' };
    if (!selectableKinds.includes(kind))
      throw new Problem(
        400,
        'kind-unknown',
        `${kind ?? 'Nothing'} cannot be selected.`,
        `Select one of: ${selectableKinds.join(', ')}.`,
      );
    if (!exists(plant.estate, selection))
      throw new Problem(404, 'not-found', 'What was selected is not there any more.', 'Select something else.');
    return json({ chain: chainOf(plant.estate, selection), facts: factsOf(plant.estate, selection) });
  });
