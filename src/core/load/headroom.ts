/** Utilisation up to which a resource is taken to be well used (choices of load.md E). */
export const RHO_LIMIT = 0.7;
export const RHO_LIMIT_MEDIA = 0.6;

/** Room of a resource: 1 − ρpeak/ρlimit; below 0 where it is past its limit. */
export const headroom = ({ rhoPeak, rhoLimit = RHO_LIMIT }: { rhoPeak: number; rhoLimit?: number }): number =>
  1 - rhoPeak / rhoLimit;

/** By what factor a volume may multiply its own load: the least over the resources it uses of (ρlimit − (ρ − own))/own; ∞ where it asks for nothing. */
export function volumeHeadroom({
  resources,
}: {
  resources: readonly { rho: number; own: number; rhoLimit?: number }[];
}): { factor: number } {
  let factor = Infinity;
  for (const { rho, own, rhoLimit = RHO_LIMIT } of resources)
    if (own > 0) factor = Math.min(factor, (rhoLimit - (rho - own)) / own);
  return { factor };
}
