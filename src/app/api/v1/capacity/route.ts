import { capacitySummary, poolVolumes } from '@/server/capacity';
import { answer, json } from '@/server/http';

export const GET = (request: Request) =>
  answer(({ plant }) => {
    const pool = new URL(request.url).searchParams.get('pool');
    return json(pool === null ? capacitySummary(plant) : poolVolumes(plant, pool));
  });
