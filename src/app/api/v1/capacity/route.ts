import { capacitySummary, poolVolumes } from '@/server/capacity';
import { answer, json } from '@/server/http';

export const GET = (request: Request) =>
  answer(async ({ plant }) => {
    const pool = new URL(request.url).searchParams.get('pool');
    return json(pool === null ? await capacitySummary(plant) : await poolVolumes(plant, pool));
  });
