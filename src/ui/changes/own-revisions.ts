import type { ChangeView } from '@/core/change/record';

/** What an addition to a draft is known by while it is under way. */
export const ADDING = ['add to the draft'];

const own = new Set<string>();

/** Keeps in mind that the reader made this revision of a draft, in whatever sheet. */
export function rememberOwn({ id, revision }: Pick<ChangeView, 'id' | 'revision'>): void {
  own.add(`${id} ${revision}`);
}

/** Up to which revision a reader who has looked at `seen` knows a draft: what follows and was the reader's own is no news. */
export function seenThrough(id: string, seen: number): number {
  let known = seen;
  while (own.has(`${id} ${known + 1}`)) known += 1;
  return known;
}
