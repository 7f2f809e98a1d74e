import { answer, json } from '@/server/http';

export const GET = () => answer(({ plant }) => json({ at: 'work', version: plant.version, now: plant.lab.now }));
