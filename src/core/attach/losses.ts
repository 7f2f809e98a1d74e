import { shownAs } from '../copies/legs';
import type { Effect } from '../estate/effects';
import type { Mapping } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { volumeOf } from '../estate/relations';
import type { Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import type { Subject } from '../operation/refusal';
import { hostName, pathFinder } from './paths';
import type { MissingSession } from './sessions';

/** A mapping that has fewer paths after than before. */
export interface Loss {
  volume: string;
  host: string;
  hostId: string;
  before: number;
  after: number;
  mounted: boolean;
  /** What would stand between them, where no path is left and the mapping stays. */
  gap: MissingSession | null;
}

/** Usable paths of mappings before and after some effects. */
export interface PathsAround {
  losses: Loss[];
  gains: number;
  before: number;
  after: number;
}

/** What effects do to the paths of the given mappings; those that go with the effects count as lost. */
export function pathsAround(view: EstateView, effects: readonly Effect[], mappings: Iterable<Mapping>): PathsAround {
  const overlay = new Overlay(view);
  overlay.apply(effects);
  const [old, now] = [pathFinder(view), pathFinder(overlay)];
  const sum: PathsAround = { losses: [], gains: 0, before: 0, after: 0 };
  for (const mapping of mappings) {
    const present = overlay.table('mapping').get(mapping.id);
    const was = old.count(mapping).usable;
    const is = present ? now.count(present).usable : 0;
    sum.before += was;
    sum.after += is;
    if (is > was) sum.gains += is - was;
    if (is >= was) continue;
    const device = view
      .table('hostDevice')
      .by('volume', shownAs(view, mapping.volume))
      .find((row) => row.host === mapping.host);
    sum.losses.push({
      volume: volumeOf(view, mapping).name,
      host: hostName(view, mapping.host),
      hostId: mapping.host,
      before: was,
      after: is,
      mounted: Boolean(device?.mountPoint),
      gap: is === 0 && present ? (now.paths(present).missing[0] ?? null) : null,
    });
  }
  return sum;
}

export const mappingsOfArray = (view: EstateView, array: string): Mapping[] =>
  view
    .table('volume')
    .by('array', array)
    .flatMap((volume) => view.table('mapping').by('volume', volume.id));

export const mappingsOfHosts = (view: EstateView, hosts: Iterable<string>): Mapping[] =>
  [...new Set(hosts)].flatMap((host) => view.table('mapping').by('host', host));

/** Refuses what takes the last path to a mounted volume. */
export function refuseCut(asks: Inquiry, around: PathsAround, subject: Subject, field: string): void {
  const cut = around.losses.find((loss) => loss.after === 0 && loss.mounted);
  if (!cut) return;
  const proof = cut.gap?.reason === 'chap-failed' || cut.gap?.reason === 'chap-mutual-failed';
  asks.refuse({
    code: 'in-use',
    field,
    subject,
    message:
      `${cut.host} would lose its last path to ${cut.volume}, which is mounted${cut.gap ? `: ${cut.gap.message}` : ''}.`.replace(
        /\.\.$/,
        '.',
      ),
    mend: proof
      ? `Give both sides the secret first: ${cut.host}, and its initiator on record.`
      : `Unmount it at ${cut.host} first, or give it another path.`,
    ...(proof ? { offer: nextStep('Enter the secret', 'host.configure', { host: cut.host }, 'chapSecret') } : {}),
  });
}

/** `2 mappings lose a path.` */
export function lossNotes({ losses, gains }: PathsAround): string[] {
  const notes =
    losses.length > 0
      ? [`${losses.length} ${losses.length === 1 ? 'mapping loses a path' : 'mappings lose a path'}.`]
      : [];
  if (gains > 0) notes.push(`${gains} ${gains === 1 ? 'path is' : 'paths are'} gained.`);
  return notes;
}
