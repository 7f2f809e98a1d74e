import { hoursOfWeek } from '../copies/activity';
import { heldByHour } from './held-back';
import { weekOf } from './room';
import type { LoadModel } from './shape';

/** What a limit does over the week. By hour of the week, 168 from Monday 00:00; shares from 0 to 1. */
export interface LimitWeek {
  /** Of what the volume asks, the share that comes later or not at all. */
  held: number[];
  /** The busiest thing it shares with others: its utilisation without the limit and with it. */
  shared: { name: string; limit: number; before: number[]; after: number[] } | null;
}

/**
 * What a limit on one volume of a model means at every hour of the week, for itself and for those who share the busiest of its resources, by the
 * means of the hours and its bursts.
 */
export function limitWeek(model: LoadModel, volume: number, iops: number): LimitWeek {
  const { reads, writes, week, bursts, uses } = model.volumes[volume]!;
  const mean = reads + writes;
  const hours = hoursOfWeek(week);
  const held = heldByHour(mean, hours, bursts, iops);
  const others = new Set(
    model.volumes.flatMap((one, k) => (k === volume ? [] : one.uses.map(({ resource }) => resource))),
  );
  const weeks = weekOf(model);
  const peak = (resource: number) => Math.max(...weeks[resource]!) / model.resources[resource]!.limit;
  const mine = new Map<number, number>();
  for (const { resource, read, write } of uses)
    if (others.has(resource)) mine.set(resource, (mine.get(resource) ?? 0) + reads * read + writes * write);
  const [busiest] = [...mine.keys()].sort((a, b) => peak(b) - peak(a));
  if (busiest === undefined) return { held, shared: null };
  const { name, limit, capacity } = model.resources[busiest]!;
  const before = [...weeks[busiest]!];
  const each = mine.get(busiest)! / capacity;
  return {
    held,
    shared: { name, limit, before, after: before.map((rho, k) => Math.max(0, rho - each * hours[k]! * held[k]!)) },
  };
}
