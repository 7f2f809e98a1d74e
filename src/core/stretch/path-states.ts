import type { SiteResult } from './decide';
import { siteNames, type SiteName } from './state';

export type StretchedPath = 'optimized' | 'non-optimized' | 'transitioning' | 'unavailable' | 'down' | 'none';

/**
 * What a host sees of its paths to both sites of a stretched volume (protect.md L); each site is one target port group. It has I/O where some
 * path is optimized or non-optimized.
 */
export function pathStates({
  siteStates,
  access,
  hostSite,
  interSiteFabricUp,
  holdExpired = true,
}: {
  siteStates: Readonly<Record<SiteName, SiteResult>>;
  access: 'uniform' | 'non-uniform';
  hostSite: SiteName;
  interSiteFabricUp: boolean;
  /** Silence has lasted so long that it is said. */
  holdExpired?: boolean;
}): { paths: Record<SiteName, StretchedPath>; hostHasIo: boolean } {
  const path = (site: SiteName): StretchedPath => {
    const remote = site !== hostSite;
    const state = siteStates[site];
    if (remote && access === 'non-uniform') return 'none';
    if (state === 'DOWN' || (remote && !interSiteFabricUp)) return 'down';
    if (state === 'HOLD') return holdExpired ? 'unavailable' : 'transitioning';
    if (state === 'STALE') return 'unavailable';
    return remote ? 'non-optimized' : 'optimized';
  };
  const paths = { A: path('A'), B: path('B') };
  return {
    paths,
    hostHasIo: siteNames.some((site) => paths[site] === 'optimized' || paths[site] === 'non-optimized'),
  };
}
