import { heatMaps, tierPolicies } from '@/core/performance/heat-map';
import { answer, json } from '@/server/http';

export const GET = () =>
  answer(({ plant }) => json({ items: heatMaps(plant.estate), policies: tierPolicies(plant.estate) }));
