import { mixtureQuantile } from '../load/path';
import { SLOT, SLOT_S } from './choices';
import type { Listener, VolumeFigures } from './figures';

/** A stretch of a volume's figures, as told. */
export interface Stretch {
  from: number;
  to: number;
  figures: VolumeFigures;
}

/** Keeps what is told of some volumes and resources, to be drawn five seconds by five seconds. */
export class CloseBook implements Listener {
  readonly volumes = new Map<number, Stretch[]>();
  readonly resources = new Map<number, { from: number; to: number; used: number }[]>();

  constructor(
    private readonly wanted: ReadonlySet<number> | 'all',
    private readonly wantedResources: ReadonlySet<number> | 'all',
  ) {}

  volume(index: number, from: number, to: number, figures: VolumeFigures): void {
    if (this.wanted !== 'all' && !this.wanted.has(index)) return;
    const known = this.volumes.get(index);
    if (known) known.push({ from, to, figures });
    else this.volumes.set(index, [{ from, to, figures }]);
  }

  resource(index: number, from: number, to: number, used: number): void {
    if (this.wantedResources !== 'all' && !this.wantedResources.has(index)) return;
    const known = this.resources.get(index);
    if (known) known.push({ from, to, used });
    else this.resources.set(index, [{ from, to, used }]);
  }
}

/** A stretch as charts and scripts read it: rates a second, times in seconds, `at` in milliseconds. */
export interface CloseRow {
  at: number;
  seconds: number;
  asked: number;
  allowed: number;
  served: number;
  refused: number;
  queue: number;
  bytesPerS: number;
  latencyS: number;
  p50S: number;
  p95S: number;
  p99S: number;
  limited: boolean;
}

export function closeRow({ from, to, figures: f }: Stretch): CloseRow {
  const classes = f.means.map((meanS, k) => ({ share: f.shares[k]!, meanS, varianceS2: f.variances[k]! }));
  const at = (percentile: number) => (f.served > 0 ? mixtureQuantile(classes, percentile) : 0);
  return {
    at: from * SLOT,
    seconds: (to - from) * SLOT_S,
    asked: f.asked,
    allowed: f.allowed,
    served: f.served,
    refused: f.refused,
    queue: f.queue,
    bytesPerS: f.bytesPerS,
    latencyS: f.served > 0 ? f.latency : 0,
    p50S: at(50),
    p95S: at(95),
    p99S: at(99),
    limited: f.limited,
  };
}
