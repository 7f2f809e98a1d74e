import { hostSheet } from '@/server/attach-views';
import { answer, json } from '@/server/http';

/** Devices, paths, sessions, discovery and path events of one host. */
export const GET = (request: Request) =>
  answer(({ plant }) => json(hostSheet(plant, new URL(request.url).searchParams.get('host'))));
