import { isOwn } from '../estate/own';
import type { EstateView } from '../estate/estate';
import { poolUsage } from '../pool/usage';
import type { Bytes } from '../units/bytes';
import { DAY, type Milliseconds } from '../units/duration';
import { poolWaterfall } from './waterfall';

/** How full a pool or a volume was at a moment. */
export interface UsageSample {
  subject: string;
  at: Milliseconds;
  size: Bytes;
  promised: Bytes;
  written: Bytes;
  used: Bytes;
}

export const dayOf = (at: Milliseconds): number => Math.floor(at / DAY);

/** Samples of all pools, and of their volumes where asked. */
export function usageSamples(view: EstateView, at: Milliseconds, withVolumes: boolean): UsageSample[] {
  const samples: UsageSample[] = [];
  for (const pool of view.table('pool').values()) {
    if (!isOwn(view, pool)) continue;
    const usage = poolUsage(view, pool);
    if (!withVolumes) {
      const written = view
        .table('volume')
        .by('pool', pool.id)
        .reduce((sum, volume) => sum + volume.written, 0);
      samples.push({
        subject: pool.id,
        at,
        size: usage.size,
        promised: usage.promised,
        written,
        used: usage.usedBytes,
      });
      continue;
    }
    const { total, volumes } = poolWaterfall(view, pool);
    samples.push({
      subject: pool.id,
      at,
      size: usage.size,
      promised: usage.promised,
      written: total.written,
      used: usage.usedBytes,
    });
    for (const [subject, line] of volumes)
      samples.push({
        subject,
        at,
        size: line.provisioned,
        promised: line.provisioned,
        written: line.written,
        used: line.used,
      });
  }
  return samples;
}
