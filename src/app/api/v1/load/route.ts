import { loadView } from '@/core/trace/load-view';
import { answer, json } from '@/server/http';

/** Load of array ports and of the links between switches. */
export const GET = () => answer(({ plant }) => json(loadView(plant.estate)));
