import { changed, compacted, deleted, type Effect } from '../estate/effects';
import type { Kind, Snapshot, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import type { Bytes } from '../units/bytes';
import { areaBytes, bytesTogether, familyCopies, familyOf, fitArea, fitCopies, isStraight, rootOf } from './area';
import { ALL_STANDS, PARTS, sharesOf, shownBytes, standsOfBoth } from './parts';

type NewId = (kind: Kind) => string;

/** A lineage at work: its copies, the volumes that stand on them, and what comes from each copy. */
interface Lineage {
  copies: Map<string, Snapshot>;
  volumes: Map<string, Volume>;
  children: Map<string, Set<string>>;
}

function lineageOf(view: EstateView, root: Volume): Lineage {
  const copies = new Map(familyCopies(view, root).map((copy) => [copy.id, copy]));
  const volumes = new Map(familyOf(view, root).map((volume) => [volume.id, volume]));
  const children = new Map<string, Set<string>>();
  const add = (parent: string | null, id: string) => {
    if (parent === null) return;
    const known = children.get(parent);
    if (known) known.add(id);
    else children.set(parent, new Set([id]));
  };
  for (const copy of copies.values()) add(copy.parent, copy.id);
  for (const volume of volumes.values()) add(volume.base, volume.id);
  return { copies, volumes, children };
}

/** Takes a copy out where at most one comes from it: what came from it now comes from what it came from itself. */
function splice({ copies, volumes, children }: Lineage, id: string): void {
  const gone = copies.get(id)!;
  const heirs = children.get(id);
  copies.delete(id);
  children.delete(id);
  if (gone.parent !== null) children.get(gone.parent)?.delete(id);
  const stands = (of: readonly number[]) => (gone.parent === null ? [...ALL_STANDS] : standsOfBoth(gone.stands, of));
  for (const heir of heirs ?? []) {
    const copy = copies.get(heir);
    const volume = volumes.get(heir);
    if (copy) copies.set(heir, { ...copy, parent: gone.parent, stands: stands(copy.stands) });
    else if (volume) volumes.set(heir, { ...volume, base: gone.parent, stands: stands(volume.stands) });
    if (gone.parent !== null) children.get(gone.parent)!.add(heir);
  }
}

/** A copy that nobody can read and at which no branches part. */
function spare({ copies, children }: Lineage): string | undefined {
  for (const copy of copies.values()) if (!copy.kept && (children.get(copy.id)?.size ?? 0) <= 1) return copy.id;
  return undefined;
}

/** Effects that leave the rows of a lineage as it has become, and the room for what it keeps apart. */
function settled(view: EstateView, root: Volume, lineage: Lineage, newId: NewId): Effect[] {
  for (let id = spare(lineage); id !== undefined; id = spare(lineage)) splice(lineage, id);
  const left = [...lineage.copies.values()];
  const effects: Effect[] = [];
  for (const copy of familyCopies(view, root)) {
    const after = lineage.copies.get(copy.id);
    if (!after) effects.push(deleted('snapshot', copy));
    else if (after !== copy) effects.push(changed('snapshot', copy, after));
  }
  for (const volume of familyOf(view, root)) {
    const { base, stands } = lineage.volumes.get(volume.id) ?? volume;
    const more = volume.id === root.id ? { copiesBytes: left.length === 0 ? 0 : bytesTogether(left, root.parts) } : {};
    effects.push(changed('volume', volume, { base, stands: base === null ? [...ALL_STANDS] : stands, ...more }));
  }
  const overlay = new Overlay(view);
  overlay.apply(effects);
  return [...effects, ...fitCopies(overlay, root.id, newId).effects];
}

/**
 * Deletes one copy of a chain, in which every copy is readable and nothing branches: what it alone showed is what stood in it of neither its
 * parent nor its child. Null where it is no such chain.
 */
function droppedFromChain(view: EstateView, root: Volume, gone: Snapshot, newId: NewId): Effect[] | null {
  if (!isStraight(view, root) || root.base === gone.id || gone.volume !== root.id) return null;
  const table = view.table('snapshot');
  const [child, ...others] = table.by('parent', gone.id);
  const parent = gone.parent === null ? null : table.get(gone.parent);
  if (!child?.kept || others.length > 0 || parent === undefined || parent?.kept === false) return null;
  const shares = sharesOf(root.parts);
  const bytes = shownBytes(gone);
  const above = parent ? shownBytes(parent) : 0;
  const lost = PARTS.reduce<number>((sum, part) => {
    const share = shares[part]!;
    const fresh = bytes * share - Math.min(bytes * share, above * share * gone.stands[part]!);
    return sum + fresh * (1 - Math.min(1, shownBytes(child) / Math.max(1, bytes), child.stands[part]!));
  }, 0);
  const volume = { ...root, copiesBytes: Math.max(0, root.copiesBytes - lost) };
  const stands = parent ? standsOfBoth(gone.stands, child.stands) : [...ALL_STANDS];
  return [
    deleted('snapshot', gone),
    changed('snapshot', child, { parent: gone.parent, stands }),
    changed('volume', root, volume),
    ...fitArea(view, volume, newId).effects,
  ];
}

/**
 * Deletes copies of one lineage. One at which branches part stays remembered, so that they share what they have of it; what nobody shows any more
 * returns to the pool.
 */
function droppedOf(view: EstateView, root: Volume, going: readonly Snapshot[], newId: NewId): Effect[] {
  const [only] = going;
  const short = going.length === 1 && only ? droppedFromChain(view, root, only, newId) : null;
  if (short) return short;
  const lineage = lineageOf(view, root);
  for (const { id } of going) {
    const copy = lineage.copies.get(id);
    // Its name is free for another from now on.
    if (copy) lineage.copies.set(id, { ...copy, kept: false, name: id });
  }
  for (const { id } of going)
    if (lineage.copies.has(id) && (lineage.children.get(id)?.size ?? 0) <= 1) splice(lineage, id);
  return settled(view, root, lineage, newId);
}

/** Effects of a clone that leaves its lineage, by going or by holding all its data itself; its own row is the caller's. */
export function leftBy(view: EstateView, clone: Volume, newId: NewId): Effect[] {
  const root = rootOf(view, clone);
  const lineage = lineageOf(view, root);
  if (clone.base !== null) lineage.children.get(clone.base)?.delete(clone.id);
  lineage.volumes.delete(clone.id);
  const overlay = new Overlay(view);
  overlay.apply([changed('volume', clone, { origin: null, base: null })]);
  return settled(overlay, root, lineage, newId);
}

/** Deletes copies, of whatever volumes. `freed` are the bytes that nobody shows any more, worked out when they are asked for. */
export function dropped(
  view: EstateView,
  copies: readonly Snapshot[],
  newId: NewId,
): { effects: Effect[]; freed: Bytes } {
  const byRoot = new Map<string, Snapshot[]>();
  for (const copy of copies) {
    const volume = view.table('volume').get(copy.volume);
    if (!volume) continue;
    const { id } = rootOf(view, volume);
    byRoot.set(id, [...(byRoot.get(id) ?? []), copy]);
  }
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  for (const [id, going] of byRoot) {
    const made = droppedOf(overlay, overlay.table('volume').get(id)!, going, newId);
    overlay.apply(made);
    effects.push(...made);
  }
  const area = (of: EstateView, id: string) => areaBytes(of, of.table('volume').get(id)!);
  return {
    effects: compacted(effects),
    get freed() {
      return [...byRoot.keys()].reduce((sum, id) => sum + area(view, id) - area(overlay, id), 0);
    },
  };
}

/** What deleting copies would give back. */
export const freedByDropping = (view: EstateView, copies: readonly Snapshot[]): Bytes => {
  let count = 0;
  return dropped(view, copies, (kind) => `${kind}_scratch_${count++}`).freed;
};

/** What a clone gives back when it goes: what nobody else of its lineage shows. */
export function freedByLeaving(view: EstateView, clone: Volume): Bytes {
  const root = rootOf(view, clone);
  const overlay = new Overlay(view);
  overlay.apply([changed('volume', clone, { origin: null, base: null })]);
  return Math.max(0, areaBytes(view, root) - areaBytes(overlay, overlay.table('volume').get(root.id)!));
}
