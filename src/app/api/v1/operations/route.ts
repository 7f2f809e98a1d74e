import { z } from 'zod';
import { operationTypes } from '@/core/change/registry';
import { recipeTypes } from '@/core/change/recipes';
import { formSpec } from '@/core/operation/form';
import { answer, json } from '@/server/http';

/** What can be done never changes while the server runs: it is put together once, when it is first asked for. */
let items: object[] | null = null;
const all = (): object[] =>
  (items ??= [...recipeTypes, ...operationTypes].map((type) => ({
    kind: type.kind,
    verb: type.verb,
    summary: type.summary,
    form: formSpec(type),
    parameters: z.toJSONSchema(type.schema, { io: 'input', unrepresentable: 'any' }),
  })));

export const GET = () => answer(() => json({ items: all() }));
