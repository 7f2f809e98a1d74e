import type { ChangePlan } from '@/core/change/plan';
import type { OperationDocument } from '@/core/change/registry';
import type { ChangeRow, ChangeView } from '@/core/change/record';
import type { Watching } from './slices';

/** The setting that says which draft lies in the tray. */
export const TRAY = 'tray';

/** The revision of a draft that somebody has looked at; null where it does not matter. */
export type Seen = number | null;

/** A draft that could run now, with what it would do. */
export interface ReadyDraft {
  change: ChangeRow;
  operations: readonly OperationDocument[];
  plan: ChangePlan;
}

/** Changes as those look them up who do something with them. */
export interface Drafts {
  /** @throws Problem where there is none, or it is in none of these states. */
  find(id: string, ...states: ChangeRow['state'][]): ChangeRow;
  /** @throws Problem where the draft is another than the one that was looked at. */
  refuseUnseen(id: string, seen: Seen): void;
  ready(id: string, seen: Seen, watching?: Watching): Promise<ReadyDraft>;
  view(id: string, watching?: Watching): Promise<ChangeView>;
  /** The draft in the tray. */
  tray(): string | null;
}
