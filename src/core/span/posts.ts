import type { GroupHealth } from '../raid/health';
import type { Post } from './drawn';

/** How something stands of which all may be gone, or a part. */
export function postOf(broken: boolean, leans: boolean): Post {
  if (broken) return 'broken';
  return leans ? 'leans' : 'stands';
}

/** How something stands that rests on these: as broken as the worst of them. */
export const worstPost = (lines: readonly { post: Post }[], leans = false): Post =>
  postOf(
    lines.some((line) => line.post === 'broken'),
    leans || lines.some((line) => line.post === 'leans'),
  );

/** How a RAID group stands, in the drawing's words. */
export const groupPosts: Record<GroupHealth['state'], Post> = {
  lost: 'broken',
  degraded: 'leans',
  initialising: 'in work',
  ok: 'stands',
};
