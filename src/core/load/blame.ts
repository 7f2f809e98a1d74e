import { mmc } from './queue';

/**
 * What each neighbour on a shared queue adds to the response of a volume (load.md F): the others are left out one at a time, on M/M/c. Service
 * in seconds, rates a second. Nulls where the queue is saturated.
 */
export function blame({
  serviceS,
  servers,
  volumes,
  victim,
}: {
  serviceS: number;
  servers: number;
  volumes: Readonly<Record<string, number>>;
  victim: string;
}): {
  responseS: number | null;
  addedS: Record<string, number | null>;
  share: Record<string, number> | null;
} {
  const total = Object.values(volumes).reduce((sum, one) => sum + one, 0);
  const response = (perS: number): number | null => {
    const answer = mmc({ arrivalsPerS: perS, serviceS, servers });
    return answer.saturated ? null : answer.responseS;
  };
  const all = response(total);
  const others = Object.keys(volumes).filter((id) => id !== victim);
  if (all === null) return { responseS: null, addedS: Object.fromEntries(others.map((id) => [id, null])), share: null };
  const addedS = Object.fromEntries(others.map((id) => [id, all - response(total - volumes[id]!)!]));
  const sum = Object.values(addedS).reduce((more, one) => more + one, 0);
  return {
    responseS: all,
    addedS,
    share: Object.fromEntries(others.map((id) => [id, sum === 0 ? 0 : addedS[id]! / sum])),
  };
}
