import { answer, json } from '@/server/http';

export const GET = () => answer(({ plant }) => json({ version: plant.version, ...plant.span() }));
