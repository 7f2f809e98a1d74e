import type { StretchView } from '@/core/replicate/stretch-view';
import type { FaultCell, FaultRow } from '@/core/stretch/fault-table';
import { siteStateWords } from '@/core/stretch/told';

/** What fails, by the names of this pair. */
export function partWords({ sides, witness }: StretchView, part: FaultCell['then']): string {
  const [a, b, w] = [sides.A.place, sides.B.place, witness.name];
  return { nothing: 'nothing', A: a, B: b, W: w, AB: 'Link between', AW: `${a} to ${w}`, BW: `${b} to ${w}` }[part];
}

export function firstWords(view: StretchView, first: FaultRow['first']): string {
  if (first === 'now') return 'Now';
  return first === 'whole' ? 'Once whole' : partWords(view, first);
}

/** `Nordkai serves alone, Molenhaven is silent` */
export const cellWords = ({ sides }: StretchView, { states }: FaultCell): string =>
  states === null
    ? 'is down already'
    : `${sides.A.place} ${siteStateWords[states.A]}, ${sides.B.place} ${siteStateWords[states.B]}`;
