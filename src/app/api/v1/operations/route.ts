import { z } from 'zod';
import { operationTypes } from '@/core/change/registry';
import { recipeTypes } from '@/core/change/recipes';
import { answer, json } from '@/server/http';

export const GET = () =>
  answer(() =>
    json({
      items: [...recipeTypes, ...operationTypes].map((type) => ({
        kind: type.kind,
        verb: type.verb,
        summary: type.summary,
        parameters: z.toJSONSchema(type.schema, { io: 'input', unrepresentable: 'any' }),
      })),
    }),
  );
