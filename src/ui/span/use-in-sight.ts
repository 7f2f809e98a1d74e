'use client';
import { useCallback, useMemo, useState } from 'react';

/** What is in sight, by id. */
export function useInSight() {
  const [inSight, setInSight] = useState<ReadonlySet<string>>(new Set<string>());
  const put = useCallback((id: string, near: boolean) => {
    setInSight((was) => {
      if (was.has(id) === near) return was;
      const next = new Set(was);
      if (near) next.add(id);
      else next.delete(id);
      return next;
    });
  }, []);
  const replace = useCallback((ids: readonly string[]) => {
    setInSight((was) => (ids.length === was.size && ids.every((id) => was.has(id)) ? was : new Set(ids)));
  }, []);
  return useMemo(() => ({ inSight, put, replace }), [inSight, put, replace]);
}
