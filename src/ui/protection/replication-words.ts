import type { ReplicationRow } from '@/core/replicate/replication-view';
import type { Post } from '@/core/span/model';

export const replicationWords: Record<ReplicationRow['state'], string> = {
  defined: 'only defined',
  copying: 'copying',
  protected: 'protected',
  paused: 'paused',
  broken: 'broken off',
  switching: 'switching',
  'failed-over': 'failed over',
};

/** How a replication stands, in words. */
export function standsText({ state, mode, stretched }: Pick<ReplicationRow, 'state' | 'mode' | 'stretched'>): string {
  if (stretched) return stretchedWords[state] ?? replicationWords[state];
  return mode === 'sync' && state === 'protected' ? 'mirrored' : replicationWords[state];
}

const stretchedWords: Partial<Record<ReplicationRow['state'], string>> = {
  protected: 'served at both',
  copying: 'one leg is refreshed',
  broken: 'not at both',
};

export const isLate = ({ lag, rpo, state }: ReplicationRow): boolean =>
  rpo !== null && lag > rpo && state !== 'failed-over';

/** How a replication stands, as a post. */
export function replicationPost(row: ReplicationRow): Post {
  if (row.state === 'broken') return 'broken';
  if (row.state === 'paused' || row.state === 'defined') return 'absent';
  if (row.state === 'copying' || row.state === 'switching') return 'in work';
  return isLate(row) || row.state === 'failed-over' ? 'leans' : 'stands';
}
