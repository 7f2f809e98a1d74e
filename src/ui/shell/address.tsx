'use client';
import { usePathname, useSearchParams } from 'next/navigation';
import { createContext, useContext, useEffect, useLayoutEffect, useMemo, useSyncExternalStore } from 'react';

/**
 * What the URL says after its path, as the reader last set it.
 * The router takes a change up in its own time, behind other work, and may write an older one back for a moment. What is
 * kept here counts at once: a key pressed right after another finds the page as that one left it.
 */
let kept: { path: string; search: string } | null = null;
let moves = 0;
const listeners = new Set<() => void>();

function keep(path: string, search: string): void {
  if (kept?.path === path && kept.search === search) return;
  kept = { path, search };
  for (const listener of listeners) listener();
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** How often the reader went somewhere. */
export const movesSoFar = (): number => moves;

/** The parameters of the view at `path` as they stand now. */
export const parametersOf = (path: string): URLSearchParams =>
  new URLSearchParams(kept?.path === path ? kept.search : window.location.search);

/** Writes other parameters of the view at `path`: as a step of the history, or in place. */
export function writeParameters(path: string, parameters: URLSearchParams, how: 'push' | 'replace'): void {
  const search = parameters.toString();
  const url = search ? `${path}?${search}` : path;
  if (how === 'push') {
    moves += 1;
    window.history.pushState(null, '', url);
  } else window.history.replaceState(null, '', url);
  keep(path, search);
}

interface Address {
  path: string;
  parameters: URLSearchParams;
}

const AddressContext = createContext<Address>({ path: '/', parameters: new URLSearchParams() });

/** The path and the parameters of the view that is shown. */
export const useAddress = (): Address => useContext(AddressContext);

/** Joins what is kept here with the router, which knows of other views, of links and of the way back. */
export function AddressProvider({ children }: { children: React.ReactNode }) {
  const path = usePathname();
  const ofRouter = useSearchParams().toString();
  const search = useSyncExternalStore(
    subscribe,
    () => (kept?.path === path ? kept.search : ofRouter),
    () => ofRouter,
  );
  useLayoutEffect(() => {
    if (kept?.path === path) return;
    moves += 1;
    keep(path, ofRouter);
  }, [path, ofRouter]);
  useEffect(() => {
    const onWayBack = () => {
      moves += 1;
      if (kept?.path === window.location.pathname) keep(kept.path, window.location.search.slice(1));
    };
    window.addEventListener('popstate', onWayBack);
    return () => window.removeEventListener('popstate', onWayBack);
  }, []);
  const address = useMemo(() => ({ path, parameters: new URLSearchParams(search) }), [path, search]);
  return <AddressContext.Provider value={address}>{children}</AddressContext.Provider>;
}
