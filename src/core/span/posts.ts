import type { GroupHealth } from '../raid/health';
import type { Post } from './drawn';

/** How a RAID group stands, in the drawing's words. */
export const groupPosts: Record<GroupHealth['state'], Post> = {
  lost: 'broken',
  degraded: 'leans',
  initialising: 'in work',
  ok: 'stands',
};
