/** What is done at once in a tier, by so many hands; the tiers follow each other. Seconds. */
export interface RecoveryTier {
  parallel: number;
  tasksS: readonly number[];
}

/** How long a tier takes: each task goes, in the given order, to whoever has least to do. */
function tierSeconds({ parallel, tasksS }: RecoveryTier): number {
  const hands = Array.from({ length: Math.max(1, parallel) }, () => 0);
  for (const task of tasksS) hands[hands.indexOf(Math.min(...hands))]! += task;
  return Math.max(...hands);
}

/** How long until an application is at work again: noticing, deciding, and the tiers one after the other (protect.md K). */
export function rto({
  detectS,
  decideS,
  tiers,
}: {
  detectS: number;
  decideS: number;
  tiers: readonly RecoveryTier[];
}): { tiersS: number[]; totalS: number } {
  const tiersS = tiers.map(tierSeconds);
  return { tiersS, totalS: detectS + decideS + tiersS.reduce((sum, one) => sum + one, 0) };
}
