/**
 * Deterministic numbers from a text: the same seed gives the same names and ids at every start, in preview and in run.
 * FNV-1a over UTF-16 code units, finished by the 32-bit avalanche of MurmurHash3.
 */
export function hash32(text: string): number {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  h ^= h >>> 16;
  h = Math.imul(h, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/** `digits` hexadecimal digits made from the seed. */
export function hexFrom(seed: string, digits: number): string {
  let out = '';
  for (let block = 0; out.length < digits; block++) out += hash32(`${seed}#${block}`).toString(16).padStart(8, '0');
  return out.slice(0, digits);
}

/** Seeded generator of numbers in [0, 1) (mulberry32). */
export function randomFrom(seed: string): () => number {
  let state = hash32(seed);
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}
