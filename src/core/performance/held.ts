import { waterFill } from '../qos/water-fill';
import { HOUR, type Milliseconds } from '../units/duration';
import { SLOT_S } from './choices';
import type { LoadModel, ModelLimit } from './shape';

/** What a volume is promised, and how much it counts beside others. */
export interface Claims {
  floor: number;
  weight: number;
}

const hourOfDay = (at: Milliseconds): number => Math.floor(at / HOUR) % 24;

/** Whether a limit holds at a moment; from a later hour to an earlier one it holds over midnight. */
export function holdsAt(
  { fromHour, untilHour }: Pick<ModelLimit, 'fromHour' | 'untilHour'>,
  at: Milliseconds,
): boolean {
  if (fromHour === null || untilHour === null || fromHour === untilHour) return true;
  const hour = hourOfDay(at);
  return fromHour < untilHour ? hour >= fromHour && hour < untilHour : hour >= fromHour || hour < untilHour;
}

/** The limits of a model at work: who may do how much, what is saved up, and what each is promised. */
export class Held {
  /** Operations saved up, by limit (shared) or by limit and volume. */
  private readonly tokens = new Map<string, number>();
  private readonly byVolume = new Map<number, { limit: ModelLimit; iops: number | null }[]>();
  /** Of the hour that was asked last. */
  readonly claims = new Map<number, Claims>();
  private claimedIn = -1;

  constructor(
    private readonly model: LoadModel,
    tokens: Readonly<Record<string, number>>,
  ) {
    for (const limit of model.limits)
      for (const { volume, iops } of limit.members) {
        this.byVolume.set(volume, [...(this.byVolume.get(volume) ?? []), { limit, iops }]);
        const key = this.key(limit, volume);
        if (limit.burst > 0) this.tokens.set(key, tokens[key] ?? limit.burst);
      }
  }

  /** By the ids that stay when the model changes. */
  private key(limit: ModelLimit, volume: number): string {
    return limit.shared ? limit.id : `${limit.id} ${this.model.volumes[volume]!.id}`;
  }

  state(): Record<string, number> {
    return Object.fromEntries(this.tokens);
  }

  /** Whether there is any limit at all. */
  get any(): boolean {
    return this.byVolume.size > 0;
  }

  /** Cuts `rates`, what is wanted, to what limits let through, and marks whom they hold back. Whether the next slot may differ. */
  allow(volumes: readonly number[], rates: Float64Array, limited: Uint8Array, at: Milliseconds): boolean {
    if (this.byVolume.size === 0) return false;
    this.claim(at);
    const shared = new Map<ModelLimit, number[]>();
    for (const v of volumes)
      for (const { limit, iops } of this.byVolume.get(v) ?? []) {
        if (!holdsAt(limit, at)) continue;
        if (limit.shared) {
          shared.set(limit, [...(shared.get(limit) ?? []), v]);
          continue;
        }
        if (iops === null) continue;
        const most = iops + (this.tokens.get(this.key(limit, v)) ?? 0) / SLOT_S;
        if (rates[v]! > most * (1 + 1e-12)) {
          rates[v] = most;
          limited[v] = 1;
        }
      }
    for (const [limit, members] of shared) {
      if (limit.together === null) continue;
      const most = limit.together + (this.tokens.get(limit.id) ?? 0) / SLOT_S;
      if (members.reduce((sum, v) => sum + rates[v]!, 0) <= most * (1 + 1e-12)) continue;
      const filled = waterFill({
        capacity: most,
        items: members.map((v) => {
          const { floor, weight } = this.claims.get(v)!;
          return { id: String(v), weight, floor: Math.min(floor, rates[v]!), demand: rates[v]! };
        }),
      });
      if (!filled.ok) continue;
      for (const v of members) {
        const share = filled.alloc[String(v)]!;
        if (share < rates[v]! * (1 - 1e-9)) limited[v] = 1;
        rates[v] = share;
      }
    }
    return this.moves(volumes, rates);
  }

  /** What limits promise and how they weigh in the hour of a moment: the highest floor, and of several weights the greatest. */
  private claim(at: Milliseconds): void {
    const hour = Math.floor(at / HOUR);
    if (hour === this.claimedIn) return;
    this.claimedIn = hour;
    this.claims.clear();
    for (const limit of this.model.limits) {
      if (!holdsAt(limit, at)) continue;
      for (const { volume, floor } of limit.members) {
        const known = this.claims.get(volume);
        this.claims.set(volume, {
          floor: Math.max(known?.floor ?? 0, floor ?? 0),
          weight: Math.max(known?.weight ?? 0, limit.weight),
        });
      }
    }
  }

  /** Whether what is saved up changes by such rates. */
  private moves(volumes: readonly number[], rates: Float64Array): boolean {
    return this.flows(volumes, rates).some(
      ({ limit, key, flow }) =>
        (flow < -1e-9 && this.tokens.get(key)! > 0) || (flow > 1e-9 && this.tokens.get(key)! < limit.burst),
    );
  }

  /** How what is saved up grows a second, bucket by bucket. */
  private flows(volumes: readonly number[], rates: Float64Array): { limit: ModelLimit; key: string; flow: number }[] {
    if (this.tokens.size === 0) return [];
    const found = new Map<string, { limit: ModelLimit; key: string; flow: number }>();
    for (const v of volumes) {
      for (const { limit, iops } of this.byVolume.get(v) ?? []) {
        const key = this.key(limit, v);
        if (!this.tokens.has(key)) continue;
        const rate = limit.shared ? limit.together : iops;
        if (rate === null) continue;
        const known = found.get(key) ?? { limit, key, flow: rate };
        known.flow -= rates[v]!;
        found.set(key, known);
      }
    }
    return [...found.values()];
  }

  /** So many slots have passed at these rates. */
  rest(volumes: readonly number[], served: Float64Array, slots: number): void {
    for (const { limit, key, flow } of this.flows(volumes, served))
      this.tokens.set(key, Math.min(limit.burst, Math.max(0, this.tokens.get(key)! + flow * slots * SLOT_S)));
  }
}
