import type { ActivityKind } from '../kinds/activity';

/** What runs on a volume, as people call it. */
export const activityLabels: Record<ActivityKind, string> = {
  database: 'Database',
  log: 'Log of a database',
  machines: 'Virtual machines',
  files: 'Files',
  mail: 'Mail',
  archive: 'Archive',
};
