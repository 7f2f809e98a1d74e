/** Drives of an enclosure from one slot to another, as operations name them. */
export const slots = (enclosure: number, from: number, to: number): string[] =>
  Array.from({ length: to - from + 1 }, (_, k) => `${enclosure}:${from + k}`);

/** Names of Skarholt Line's hosts over iSCSI and NVMe. */
export const iqn = (name: string): string => `iqn.2031-04.example.skarholt:${name}`;
export const nqn = (name: string): string => `nqn.2031-04.example.skarholt:${name}`;
