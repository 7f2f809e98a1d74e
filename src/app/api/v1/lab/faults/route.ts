import { faults } from '@/core/lab/broken';
import { faultBody } from '@/server/bodies';
import { answer, bodyJson, json } from '@/server/http';
import { changeFault } from '@/server/lab';

export const GET = () => answer(({ plant }) => json({ items: faults(plant.estate) }));

export const POST = (request: Request) =>
  answer(async ({ plant }) => {
    const { kind, component, clear } = await bodyJson(request, faultBody);
    return json(changeFault(plant, kind, component, clear));
  });
