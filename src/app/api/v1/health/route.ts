import { answer, json } from '@/server/http';

/** 200 while everything goes on, 503 with what is amiss where something does not. */
export const GET = () =>
  answer(({ plant }) => {
    const troubles = plant.troubles.list();
    return json(
      { at: troubles.length === 0 ? 'work' : 'fault', version: plant.version, now: plant.lab.now, troubles },
      troubles.length === 0 ? 200 : 503,
    );
  });
