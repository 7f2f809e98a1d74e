/** Rates closer than this, relatively, are one. */
const CLOSE = 1e-12;

/**
 * Max-min fair rates of flows over resources they share: all rise together, one stops at its own cap or when something on its way is full
 * (move.md, borrowed). `ways` lists the resources of each flow, each once; a cap of Infinity is none. Made for thousands of flows.
 */
export function fairRates(
  capacities: readonly number[],
  ways: readonly (readonly number[])[],
  caps: readonly number[],
): Float64Array {
  const rates = new Float64Array(ways.length);
  const left = Float64Array.from(capacities);
  const growing = new Int32Array(capacities.length);
  const on: number[][] = capacities.map(() => []);
  ways.forEach((way, flow) => {
    for (const resource of way) {
      growing[resource]! += 1;
      on[resource]!.push(flow);
    }
  });
  const byCap = [...ways.keys()].filter((flow) => caps[flow]! < Infinity).sort((a, b) => caps[a]! - caps[b]!);
  const stopped = new Uint8Array(ways.length);
  let open = ways.length;
  let next = 0;
  const stop = (flow: number, rate: number) => {
    if (stopped[flow]) return;
    stopped[flow] = 1;
    rates[flow] = rate;
    open -= 1;
    for (const resource of ways[flow]!) {
      growing[resource]! -= 1;
      left[resource]! -= rate;
    }
  };
  while (open > 0) {
    let level = Infinity;
    for (let r = 0; r < left.length; r++)
      if (growing[r]! > 0) level = Math.min(level, Math.max(0, left[r]!) / growing[r]!);
    // Whoever stops at a cap below the level only raises it for the others.
    let any = false;
    while (next < byCap.length && caps[byCap[next]!]! <= level * (1 + CLOSE)) {
      const flow = byCap[next++]!;
      if (!stopped[flow]) {
        stop(flow, caps[flow]!);
        any = true;
      }
    }
    if (any) continue;
    if (level === Infinity) break;
    const full: number[] = [];
    for (let r = 0; r < left.length; r++)
      if (growing[r]! > 0 && Math.max(0, left[r]!) / growing[r]! <= level * (1 + CLOSE)) full.push(r);
    for (const r of full) for (const flow of on[r]!) stop(flow, level);
  }
  return rates;
}
