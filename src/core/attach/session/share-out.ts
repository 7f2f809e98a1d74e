import type { Host } from '../../estate/entities';

/** What a limit leaves each host, the first by name served first. */
export function shareOut(asking: readonly Host[], limit: number, wants: (host: string) => number): Map<string, number> {
  let left = limit;
  const by = new Map<string, number>();
  for (const { id } of [...asking].sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const given = Math.min(left, wants(id));
    by.set(id, given);
    left -= given;
  }
  return by;
}
