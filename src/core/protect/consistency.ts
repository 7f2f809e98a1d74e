/** Two moments closer than this are one, seconds. */
const INSTANT = 1e-9;

/** How good a copy is: the application was paused for it, or it is what a power cut would leave. */
export type ConsistencyLabel = 'application' | 'crash';

export interface CutMember {
  id: string;
  /** Between these it held the acknowledgement of new writes; in between it was cut. Seconds on one clock. */
  holdStartS: number;
  cutS: number;
  holdEndS: number;
}

export interface GroupCut {
  consistent: boolean;
  reason: 'cut-outside-hold' | 'no-common-instant' | 'hold-too-long' | null;
  /** When all members held; null where there was no such moment. */
  commonFromS: number | null;
  commonToS: number | null;
}

/** Whether a cut keeps the write order over its members: each was cut while it held, and there was a moment when all held (protect.md E). */
export function groupCut({ members, holdMaxS }: { members: readonly CutMember[]; holdMaxS: number }): GroupCut {
  const from = Math.max(...members.map((member) => member.holdStartS));
  const to = Math.min(...members.map((member) => member.holdEndS));
  const meet = members.length > 0 && from <= to + INSTANT;
  const outside = ({ holdStartS, cutS, holdEndS }: CutMember) =>
    cutS < holdStartS - INSTANT || cutS > holdEndS + INSTANT;
  const longest = Math.max(...members.map((member) => member.holdEndS - member.holdStartS));
  const why = (): GroupCut['reason'] => {
    if (members.some(outside)) return 'cut-outside-hold';
    if (!meet) return 'no-common-instant';
    return longest > holdMaxS + INSTANT ? 'hold-too-long' : null;
  };
  const reason = why();
  return { consistent: reason === null, reason, commonFromS: meet ? from : null, commonToS: meet ? to : null };
}

export interface Quiesced {
  label: ConsistencyLabel | null;
  reason: 'freeze-timeout' | 'hold-exceeded' | 'thaw-unconfirmed' | 'freeze-expired' | null;
  /** A thaw is sent on every way out. */
  thawSent: true;
}

export interface QuiesceTimes {
  /** Lengths of the phases in seconds; null where the agent never answered. */
  freezeAckS: number | null;
  cutS: number;
  thawAckS: number | null;
  /** Inclusive. */
  freezeTimeoutS: number;
  holdMaxS: number;
  thawTimeoutS: number;
  /** Whether a copy is cut all the same when the application does not pause. */
  onTimeout: 'crash' | 'fail';
  /** What the agent says with its thaw: the pause held throughout. */
  frozenIntact?: boolean;
}

/** The label that a quiesced cut may bear: never a better one than was confirmed (protect.md E). */
export function quiesce(times: QuiesceTimes): Quiesced {
  const { freezeAckS, cutS, thawAckS, frozenIntact = true } = times;
  const late = (answered: number | null, limit: number) => answered === null || answered > limit + INSTANT;
  const told = (label: Quiesced['label'], reason: Quiesced['reason']): Quiesced => ({ label, reason, thawSent: true });
  const frozen = !late(freezeAckS, times.freezeTimeoutS);
  if (!frozen && times.onTimeout === 'fail') return told(null, 'freeze-timeout');
  if (cutS > times.holdMaxS + INSTANT) return told(null, 'hold-exceeded');
  if (!frozen) return told('crash', 'freeze-timeout');
  if (late(thawAckS, times.thawTimeoutS)) return told('crash', 'thaw-unconfirmed');
  return frozenIntact ? told('application', null) : told('crash', 'freeze-expired');
}
