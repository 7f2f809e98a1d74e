import type { Happening } from './course';
import type { SiteResult } from './decide';
import { SECOND, type Milliseconds } from '../units/duration';
import { otherSite, type Part, type SiteName } from './state';

/** What a site does, in a word or two. */
export const siteStateWords: Record<SiteResult, string> = {
  BOTH: 'serves',
  SOLO: 'serves alone',
  STALE: 'is being refreshed',
  HOLD: 'is silent',
  DOWN: 'is down',
};

/** How the places of a pair are called. */
export interface PlaceNames {
  A: string;
  B: string;
  /** The witness. */
  W: string;
}

const partWords = (part: Part, up: boolean, names: PlaceNames): string => {
  const sees = (from: string, to: string) => `${from} ${up ? 'sees' : 'does not see'} ${to}${up ? ' again' : ''}`;
  if (part === 'AB') return `${names.A} and ${names.B} ${up ? 'see each other again' : 'do not see each other'}`;
  if (part === 'AW') return sees(names.A, names.W);
  if (part === 'BW') return sees(names.B, names.W);
  return `${names[part]} ${up ? 'answers again' : 'does not answer'}`;
};

/** What happened to a pair, in a sentence without its stop; null for what only prepares something else. */
export function toldOf(happening: Happening, names: PlaceNames): string | null {
  if ('part' in happening) return partWords(happening.part, happening.up, names);
  const { turn, before, after } = happening;
  const site: SiteName = turn.site === 'W' ? before.preferred : turn.site;
  const [own, other] = [names[site], names[otherSite(site)]];
  const epoch = after[site].epoch;
  switch (turn.rule) {
    case 'T1':
      return `${own} holds: nothing is acknowledged`;
    case 'T2':
      return `${own} asks ${names.W}`;
    case 'T2 arrives':
      if (after[site].granted) return `${names.W} lets ${own} go on, epoch ${after.W.epoch}`;
      return `${names.W} denies ${own}: ${before.W.owner === 'both' ? 'its register is out of date' : `${names[before.W.owner]} goes on`}`;
    case 'T3':
    case 'T4':
    case 'T5':
      return `${own} serves alone, epoch ${epoch}`;
    case 'T6':
      return `${own} serves again, alone`;
    case 'T7':
      return `${names.W} learns that ${own} serves alone`;
    case 'T8':
      if (after[site].mode === 'STALE' && before[site].mode !== 'STALE') return `${own} is being refreshed`;
      return after[site].synced && !before[site].synced ? `${own} equals ${other}` : null;
    case 'T10':
      return after.A.phase === 'RUN' && after.B.phase === 'RUN' ? `both serve, epoch ${epoch}` : null;
    case 'T11':
      return after.A.arb === 'P' && after.B.arb === 'P'
        ? `both agree that ${names[before.preferred]} goes on without ${names.W}`
        : null;
    case 'T12 arrives':
      return `${names.W} knows that both serve, epoch ${after.W.epoch}`;
    case 'T13':
      return after.A.arb === 'W' && after.B.arb === 'W' ? `${names.W} decides again` : null;
    default:
      return null;
  }
}

/** How long hosts get no answer: `3.1 s` */
export const pauseWords = (ms: Milliseconds): string => `${(ms / SECOND).toFixed(1)} s`;
