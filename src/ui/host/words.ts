import type { PathSelector } from '@/core/estate/entities';

export const tags = { fc: 'FC', iscsi: 'IS', 'nvme-tcp': 'NV' } as const;
export const selectors: Record<PathSelector, string> = {
  failover: 'one path, others in reserve',
  'round-robin': 'round robin',
  'queue-depth': 'least queue depth',
  'service-time': 'least service time',
};
export const heading = 'caps border-b border-ink px-4 pt-3 pb-1';
