import { loginTest } from '@/server/attach-views';
import { loginTestBody } from '@/server/bodies';
import { answer, bodyJson, json } from '@/server/http';

/** Runs the login of a host at a target of an array and tells what both sides wrote down. */
export const POST = (request: Request) =>
  answer(async ({ plant }) => {
    const { host, array, target } = await bodyJson(request, loginTestBody);
    return json(loginTest(plant, host, array, target));
  });
