import { waitChance } from '../load/queue';

/** Points at which the chance to wait is known; between them it is taken as straight. */
const POINTS = 512;
const tables = new Map<number, Float64Array>();

/** Chance that an I/O waits at `servers` of utilisation `rho` below 1 (Erlang C), from a table. */
export function chanceToWait(rho: number, servers: number): number {
  let table = tables.get(servers);
  if (!table) {
    table = Float64Array.from({ length: POINTS + 1 }, (_, k) =>
      k === POINTS ? 1 : waitChance((k / POINTS) * servers, servers),
    );
    tables.set(servers, table);
  }
  const at = Math.min(1, Math.max(0, rho)) * POINTS;
  const k = Math.min(POINTS - 1, Math.floor(at));
  return table[k]! + (table[k + 1]! - table[k]!) * (at - k);
}
