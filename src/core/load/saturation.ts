/** A resource asked for more than it gives: what it serves a second, and what it does not. */
export interface Saturated {
  saturated: true;
  /** Utilisation that would be needed, 1 or more. */
  rho: number;
  servedPerS: number;
  unservedPerS: number;
}

/** The saturated answer where λS/c is 1 or more, else null. Rates a second, service in seconds. */
export function saturation(arrivalsPerS: number, serviceS: number, servers = 1): Saturated | null {
  const rho = (arrivalsPerS * serviceS) / servers;
  if (rho < 1) return null;
  const servedPerS = servers / serviceS;
  return { saturated: true, rho, servedPerS, unservedPerS: arrivalsPerS - servedPerS };
}
