export interface TagClient {
  id: string;
  weight: number;
  floorPerS?: number;
  limitPerS?: number;
}

export interface Dispatched {
  client: string;
  atS: number;
  startS: number;
  endS: number;
  phase: 'floor' | 'weight';
}

interface Waiting {
  atS: number;
  /** Reservation, limit and share tags. */
  r: number;
  l: number;
  p: number;
}

/** Tags are compared rounded to nine decimals. */
const rounded = (tag: number): number => (Number.isFinite(tag) ? Math.round(tag * 1e9) / 1e9 : tag);

/**
 * One server that gives each client its floor first and shares the rest by weight within limits, not pre-emptive (load.md I). Each request gets
 * three tags when it arrives; heads with R ≤ now go by the smallest R, else those with L ≤ now by the smallest P, which takes 1/floor off the R
 * tags of that client. Ties by client id. Times in seconds.
 */
export function tagSchedule({
  serverPerS,
  clients,
  arrivals,
}: {
  serverPerS: number;
  clients: readonly TagClient[];
  arrivals: readonly { client: string; atS: number }[];
}): { dispatch: Dispatched[] } {
  const states = [...clients]
    .sort((a, b) => (a.id < b.id ? -1 : Number(a.id > b.id)))
    .map((client) => ({ client, queue: [] as Waiting[], r: NaN, l: NaN, p: NaN }));
  const byId = new Map(states.map((state) => [state.client.id, state]));
  const coming = arrivals.map((one, k) => ({ ...one, k })).sort((a, b) => a.atS - b.atS || a.k - b.k);
  let next = 0;
  let now = 0;
  let virtual = 0;
  const dispatch: Dispatched[] = [];
  const arrive = () => {
    for (; next < coming.length && coming[next]!.atS <= now + 1e-12; next++) {
      const { client: id, atS } = coming[next]!;
      const state = byId.get(id);
      if (!state) continue;
      const { weight, floorPerS = 0, limitPerS = 0 } = state.client;
      state.r = floorPerS > 0 ? (Number.isNaN(state.r) ? atS : Math.max(state.r + 1 / floorPerS, atS)) : Infinity;
      state.l = limitPerS > 0 && !Number.isNaN(state.l) ? Math.max(state.l + 1 / limitPerS, atS) : atS;
      state.p = Number.isNaN(state.p) ? virtual : Math.max(state.p + 1 / weight, virtual);
      state.queue.push({ atS, r: state.r, l: state.l, p: state.p });
    }
  };
  for (;;) {
    arrive();
    const heads = states.filter((state) => state.queue.length > 0);
    const least = (tag: 'r' | 'p', some: typeof heads) =>
      some.reduce<(typeof heads)[number] | null>(
        (best, one) => (best === null || rounded(one.queue[0]![tag]) < rounded(best.queue[0]![tag]) ? one : best),
        null,
      );
    const due = least(
      'r',
      heads.filter((state) => rounded(state.queue[0]!.r) <= rounded(now)),
    );
    const chosen =
      due ??
      least(
        'p',
        heads.filter((state) => rounded(state.queue[0]!.l) <= rounded(now)),
      );
    if (!chosen) {
      const wake = Math.min(
        ...heads.map((state) => Math.min(state.queue[0]!.r, state.queue[0]!.l)),
        coming[next]?.atS ?? Infinity,
      );
      if (wake === Infinity) return { dispatch };
      now = Math.max(now, wake);
      continue;
    }
    const request = chosen.queue.shift()!;
    if (!due) {
      virtual = Math.max(virtual, request.p);
      const { floorPerS = 0 } = chosen.client;
      if (floorPerS > 0) {
        chosen.r -= 1 / floorPerS;
        for (const one of chosen.queue) one.r -= 1 / floorPerS;
      }
    }
    const endS = now + 1 / serverPerS;
    dispatch.push({ client: chosen.client.id, atS: request.atS, startS: now, endS, phase: due ? 'floor' : 'weight' });
    now = endS;
  }
}
