import { changed, deleted, type Effect } from '../estate/effects';
import type { Kind, Snapshot, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import type { Bytes } from '../units/bytes';
import { areaBytes, bytesTogether, fitCopies } from './area';
import { ALL_STANDS, standsOfBoth } from './parts';

type NewId = (kind: Kind) => string;

/** What comes from a copy: later copies, and the volume itself where it stands on it. */
interface Family {
  copies: Map<string, Snapshot>;
  volume: Volume;
  children: Map<string, Set<string>>;
}

function familyOf(view: EstateView, volume: Volume): Family {
  const copies = new Map(
    view
      .table('snapshot')
      .by('volume', volume.id)
      .map((copy) => [copy.id, copy]),
  );
  const children = new Map<string, Set<string>>();
  const add = (parent: string | null, id: string) => {
    if (parent === null) return;
    const known = children.get(parent);
    if (known) known.add(id);
    else children.set(parent, new Set([id]));
  };
  for (const copy of copies.values()) add(copy.parent, copy.id);
  add(volume.base, volume.id);
  return { copies, volume, children };
}

/** Takes a copy out where at most one comes from it: what came from it now comes from what it came from itself. */
function spliced(family: Family, id: string): void {
  const gone = family.copies.get(id)!;
  const heirs = family.children.get(id);
  family.copies.delete(id);
  family.children.delete(id);
  if (gone.parent !== null) family.children.get(gone.parent)?.delete(id);
  for (const heir of heirs ?? []) {
    const copy = family.copies.get(heir);
    const stands = (of: readonly number[]) => (gone.parent === null ? [...ALL_STANDS] : standsOfBoth(gone.stands, of));
    if (copy) family.copies.set(heir, { ...copy, parent: gone.parent, stands: stands(copy.stands) });
    else family.volume = { ...family.volume, base: gone.parent, stands: stands(family.volume.stands) };
    if (gone.parent !== null) family.children.get(gone.parent)!.add(heir);
  }
}

/** The ids of copies that nobody can read and where no branches part. */
function spare(family: Family): string | undefined {
  for (const copy of family.copies.values())
    if (!copy.kept && (family.children.get(copy.id)?.size ?? 0) <= 1) return copy.id;
  return undefined;
}

/**
 * Deletes copies of one volume. One at which branches part stays remembered, so that they share what they have of it; what nobody shows any more
 * returns to the pool.
 */
function droppedOf(view: EstateView, before: Volume, going: readonly Snapshot[], newId: NewId): Effect[] {
  const family = familyOf(view, before);
  const known = new Map(family.copies);
  for (const copy of going) family.copies.set(copy.id, { ...family.copies.get(copy.id)!, kept: false });
  for (const { id } of going) {
    if (!family.copies.has(id)) continue;
    if ((family.children.get(id)?.size ?? 0) <= 1) spliced(family, id);
    else family.copies.set(id, { ...family.copies.get(id)!, name: id });
  }
  for (let id = spare(family); id !== undefined; id = spare(family)) spliced(family, id);
  const left = [...family.copies.values()];
  const none = left.length === 0;
  const effects: Effect[] = [
    ...[...known.values()].filter((copy) => !family.copies.has(copy.id)).map((copy) => deleted('snapshot', copy)),
    ...left.filter((copy) => copy !== known.get(copy.id)).map((copy) => changed('snapshot', known.get(copy.id)!, copy)),
    changed('volume', before, {
      base: family.volume.base,
      stands: family.volume.base === null ? [...ALL_STANDS] : family.volume.stands,
      copiesBytes: none ? 0 : bytesTogether(left, before.parts),
    }),
  ];
  const overlay = new Overlay(view);
  overlay.apply(effects);
  return [...effects, ...fitCopies(overlay, before.id, newId).effects];
}

/** Deletes copies, of whatever volumes. `freed` are the bytes that nobody shows any more. */
export function dropped(
  view: EstateView,
  copies: readonly Snapshot[],
  newId: NewId,
): { effects: Effect[]; freed: Bytes } {
  const byVolume = new Map<string, Snapshot[]>();
  for (const copy of copies) byVolume.set(copy.volume, [...(byVolume.get(copy.volume) ?? []), copy]);
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  let freed = 0;
  for (const [id, going] of byVolume) {
    const volume = overlay.table('volume').get(id);
    if (!volume) continue;
    const before = areaBytes(overlay, volume);
    const made = droppedOf(overlay, volume, going, newId);
    overlay.apply(made);
    effects.push(...made);
    freed += before - areaBytes(overlay, overlay.table('volume').get(id)!);
  }
  return { effects, freed };
}

/** What deleting copies would give back. */
export const freedByDropping = (view: EstateView, copies: readonly Snapshot[]): Bytes => {
  let count = 0;
  return dropped(view, copies, (kind) => `${kind}_scratch_${count++}`).freed;
};
