import { rowName, type Effect } from './effects';
import { kindWords, type Kind, type Rows } from './entities';
import type { EstateView } from './estate';
import { referredIds, references, rowsReferring } from './references';

/** Why effects cannot be turned round as the estate now stands. */
export interface UndoConflict {
  kind: Kind;
  id: string;
  name: string;
  why: string;
}

const same = (a: unknown, b: unknown): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);

/**
 * Turns effects round against the present estate, last first. Only the fields an effect changed are put back, so what has moved on
 * elsewhere in a row stays. A field that was changed again since, or a row others now rest on, is a conflict.
 */
export function reverse(
  view: EstateView,
  effects: readonly Effect[],
): { effects: Effect[]; conflicts: UndoConflict[] } {
  const conflicts: UndoConflict[] = [];
  const turned: Effect[] = [];
  const going = new Set<string>();
  const conflict = (kind: Kind, row: Rows[Kind], why: string) => conflicts.push({ ...calledIn(view, kind, row), why });
  for (const effect of [...effects].reverse()) {
    const { kind, id, before, after } = effect;
    const present = view.table(kind).get(id);
    if (!after) {
      if (present) conflict(kind, present, 'is there again');
      else turned.push({ kind, id, before: null, after: before } as Effect);
      continue;
    }
    if (!present) {
      // A job that has ended took its own row away; anything else that is gone was taken away by somebody.
      if (kind !== 'job') conflict(kind, after, 'has been taken away since');
      else if (!leavesNothing.has(after.kind))
        conflict(kind, after, 'has come out of the work this step began, which is over');
      continue;
    }
    if (!before) {
      const moved = grownFields(kind, after, present);
      if (moved) conflict(kind, present, moved);
      turned.push({ kind, id, before: present, after: null } as Effect);
      going.add(id);
      continue;
    }
    const fields: Record<string, unknown> = {};
    for (const field of Object.keys(after) as (keyof typeof after)[]) {
      if (same(before[field], after[field])) continue;
      if (!same(present[field as keyof typeof present], after[field])) {
        conflict(kind, present, `has another ${inWords(String(field))} by now`);
        continue;
      }
      fields[field] = before[field];
    }
    if (kind === 'drive' && 'spare' in fields) {
      const group = view.table('raidGroup').get((present as Rows['drive']).raidGroup ?? '');
      if (group && group.id !== after.raidGroup)
        conflict(kind, present, `is at work in RAID group ${group.name} by now`);
    }
    turned.push({ kind, id, before: present, after: { ...present, ...fields } } as Effect);
  }
  const along = goingAlong(view, going, turned, conflicts);
  return { effects: [...along, ...turned], conflicts };
}

/** `mountPoint` → `mount point`. */
const inWords = (field: string): string => field.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);

/** What a person would call the row: extents by whom they hold, the rows a host or a volume has by its name. */
function calledIn(view: EstateView, kind: Kind, row: Rows[Kind]): { kind: Kind; id: string; name: string } {
  const named = (of: Kind, id: string | null | undefined) => {
    const found = id ? view.table(of).get(id) : undefined;
    return found ? { kind: of, id: found.id, name: rowName(of, found) } : null;
  };
  if (kind === 'extent') {
    const { volume, store } = row as Rows['extent'];
    return named('volume', volume) ?? named('pool', store) ?? { kind, id: row.id, name: row.id };
  }
  if (kind === 'job') {
    const { volume, raidGroup, pool } = row as Rows['job'];
    return (
      named('volume', volume) ??
      named('raidGroup', raidGroup) ??
      named('pool', pool) ?? { kind, id: row.id, name: row.id }
    );
  }
  if (kind === 'login' || kind === 'access') {
    const { array } = row as Rows['login'];
    return named('array', array) ?? { kind, id: row.id, name: row.id };
  }
  return { kind, id: row.id, name: rowName(kind, row) };
}

/** Work whose end changes nothing that could be put back. */
const leavesNothing: ReadonlySet<Rows['job']['kind']> = new Set(['raid-initialise', 'raid-scrub']);

/** What a created row has come to hold since that its going would destroy. */
function grownFields(kind: Kind, after: Rows[Kind], present: Rows[Kind]): string | null {
  if (kind === 'volume' && (present as Rows['volume']).written > (after as Rows['volume']).written)
    return 'holds data written since';
  if (kind === 'hostDevice' && (present as Rows['hostDevice']).fileSystem && !(after as Rows['hostDevice']).fileSystem)
    return 'carries a file system made since';
  if (kind === 'move' && (present as Rows['move']).state !== (after as Rows['move']).state)
    return 'is under way: abort it, or roll it back';
  if (kind === 'raidGroup' && (present as Rows['raidGroup']).pool && !(after as Rows['raidGroup']).pool)
    return 'carries a pool by now';
  return null;
}

/** Rows that must go with those going, or conflicts where others rest on them. */
function goingAlong(view: EstateView, going: Set<string>, turned: Effect[], conflicts: UndoConflict[]): Effect[] {
  const along: Effect[] = [];
  if (going.size === 0) return along;
  const detached = new Map(turned.map((effect) => [effect.id, effect.after]));
  // What goes along may take others along in its turn.
  const due = [...turned];
  for (const effect of due) {
    if (effect.after || !effect.before) continue;
    for (const reference of references) {
      if (reference.to !== effect.kind) continue;
      for (const row of rowsReferring(view, reference, effect.id)) {
        if (going.has(row.id)) continue;
        const after = detached.get(row.id);
        if (after && !referredIds(after, reference.field).includes(effect.id)) continue;
        if (reference.onDelete === 'goes-along') {
          going.add(row.id);
          const gone = { kind: reference.from, id: row.id, before: row, after: null } as Effect;
          along.push(gone);
          due.push(gone);
        } else
          conflicts.push({
            kind: effect.kind,
            id: effect.id,
            name: rowName(effect.kind, effect.before),
            why: `is used by ${kindWords[reference.from]} ${rowName(reference.from, row)}`,
          });
      }
    }
  }
  return along;
}
