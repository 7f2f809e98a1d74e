import { trafficBody } from '@/server/bodies';
import { answer, bodyJson, json } from '@/server/http';
import { setTraffic } from '@/server/lab';

export const POST = (request: Request) =>
  answer(async ({ plant }) => {
    const { host, device, rate } = await bodyJson(request, trafficBody);
    return json(setTraffic(plant, host, device, rate));
  });
