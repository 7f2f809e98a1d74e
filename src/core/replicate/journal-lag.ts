import { Steps, type Step } from './steps';

/** A replication that sends each write in its turn, through a journal: first in, first out. */
export interface JournalProfile {
  write: readonly Step[];
  link: readonly Step[];
  wireRatio: number;
  horizonS: number;
  /** What the journal holds, in bytes as sent. */
  journalBytes?: number;
  lagAt?: readonly number[];
}

export interface JournalLag {
  peakBacklogBytes: number;
  /** When the peak is first reached; 0 without a backlog. */
  peakAtS: number;
  endBacklogBytes: number;
  /** The first moment at which more is waiting than the journal holds. */
  overflowAtS: number | null;
  lagS: number[];
}

interface Stretch {
  fromS: number;
  toS: number;
  backlog: number;
  /** Bytes a second by which the backlog grows; what is sent while there is none is what comes. */
  slope: number;
}

/** What waits, stretch by stretch in which it grows or shrinks evenly. */
function stretches(arriving: Steps, link: Steps, endS: number): Stretch[] {
  const changes = [...new Set([...arriving.changes, ...link.changes, endS])]
    .filter((s) => s <= endS)
    .sort((a, b) => a - b);
  const found: Stretch[] = [];
  let [at, backlog] = [0, 0];
  for (const to of changes) {
    while (at < to) {
      const net = arriving.rate(at) - link.rate(at);
      const slope = backlog <= 0 ? Math.max(0, net) : net;
      // Where it runs dry the rest of the stretch has nothing waiting.
      const dry = slope < 0 ? at + backlog / -slope : Infinity;
      const end = Math.min(to, dry);
      found.push({ fromS: at, toS: end, backlog, slope });
      backlog = dry <= to ? 0 : backlog + slope * (end - at);
      at = end;
    }
  }
  return found;
}

const backlogAt = (one: Stretch, s: number): number => Math.max(0, one.backlog + one.slope * (s - one.fromS));

/**
 * What waits in the journal, when it overflows, and how far behind the target is (protect.md H3, continuous). Where it overflows the other
 * figures go on as if it were endless.
 */
export function journalLag({ write, link, wireRatio, horizonS, journalBytes, lagAt = [] }: JournalProfile): JournalLag {
  const arriving = new Steps(write.map(({ fromS, bytesPerS }) => ({ fromS, bytesPerS: bytesPerS * wireRatio })));
  const all = stretches(arriving, new Steps(link), Math.max(horizonS, ...lagAt));
  const within = all.filter((one) => one.fromS < horizonS);
  let [peakBacklogBytes, peakAtS] = [0, 0];
  let overflowAtS: number | null = null;
  for (const one of within) {
    const toS = Math.min(one.toS, horizonS);
    const end = backlogAt(one, toS);
    if (end > peakBacklogBytes) [peakBacklogBytes, peakAtS] = [end, toS];
    if (overflowAtS === null && journalBytes !== undefined && end > journalBytes)
      overflowAtS = one.fromS + Math.max(0, journalBytes - one.backlog) / one.slope;
  }
  const at = (s: number) => {
    const one = all.findLast((stretch) => stretch.fromS <= s) ?? all[0];
    return one ? backlogAt(one, Math.min(s, one.toS)) : 0;
  };
  const lag = (s: number) => {
    const waiting = at(s);
    return waiting <= 0 ? 0 : Math.max(0, s - arriving.reached(arriving.upTo(s) - waiting));
  };
  return { peakBacklogBytes, peakAtS, endBacklogBytes: at(horizonS), overflowAtS, lagS: lagAt.map(lag) };
}
