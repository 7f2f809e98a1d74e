import { fabricModels } from '@/core/trace/matrix';
import { answer, json } from '@/server/http';

/** Fabrics with switches, logins, zones, and who meets whom. */
export const GET = () => answer(({ plant }) => json({ items: fabricModels(plant.estate) }));
