import { kinds, type ExtentRun, type Kind, type Rows } from './entities';
import type { Effect } from './effects';
import { Occupancy } from './occupancy';
import { MemoryTable, OverlayTable, type TableView } from './table';

/** What the computation reads: the estate itself, or a preview laid over it. */
export interface EstateView {
  table<K extends Kind>(kind: K): TableView<K>;
  readonly occupancy: Occupancy;
  /** The estate this one is laid over; null for the estate itself. */
  readonly below: EstateView | null;
  /** How often rows of a kind were put or deleted here: what was worked out from them holds while it stays. */
  revision(kind: Kind): number;
}

interface WritableTable<K extends Kind> extends TableView<K> {
  put(row: Rows[K]): void;
  delete(id: string): void;
}

abstract class TableSet implements EstateView {
  protected abstract writable(kind: Kind): WritableTable<Kind>;
  abstract readonly occupancy: Occupancy;
  abstract readonly below: EstateView | null;
  private readonly revisions = new Map<Kind, number>();

  revision(kind: Kind): number {
    return this.revisions.get(kind) ?? 0;
  }

  table<K extends Kind>(kind: K): TableView<K> {
    return this.writable(kind) as unknown as TableView<K>;
  }

  apply(effects: readonly Effect[]): void {
    /** Runs as they were before all of it, and as they are after. */
    const runs = new Map<string, { before: ExtentRun | null; after: ExtentRun | null }>();
    for (const effect of effects) {
      if (effect.kind === 'extent') {
        const known = runs.get(effect.id);
        if (known) known.after = effect.after;
        else runs.set(effect.id, { before: effect.before, after: effect.after });
      }
      if (effect.kind !== 'volume') continue;
      if (effect.before) this.occupancy.promise(effect.before, -1);
      if (effect.after) this.occupancy.promise(effect.after, 1);
    }
    // What goes makes room first, so that one change may free and take the same extent.
    for (const { before } of runs.values()) if (before) this.occupancy.remove(before);
    for (const { kind, id, after } of effects) {
      const table = this.writable(kind);
      this.revisions.set(kind, this.revision(kind) + 1);
      if (after) table.put(after);
      else table.delete(id);
    }
    for (const { after } of runs.values()) if (after) this.occupancy.add(after);
  }
}

/** The estate in memory: typed tables with the indexes that questions need. */
export class Estate extends TableSet {
  private readonly tables = new Map(kinds.map((kind) => [kind, new MemoryTable(kind) as WritableTable<Kind>]));
  readonly occupancy = new Occupancy();
  readonly below = null;

  protected writable(kind: Kind): WritableTable<Kind> {
    return this.tables.get(kind)!;
  }

  static of(rows: Iterable<{ kind: Kind; row: Rows[Kind] }>): Estate {
    const estate = new Estate();
    for (const { kind, row } of rows) estate.apply([{ kind, id: row.id, before: null, after: row } as Effect]);
    return estate;
  }
}

/** Effects laid over an estate without touching it. */
export class Overlay extends TableSet {
  /** Made when they are asked for: most overlays are about a few kinds. */
  private readonly tables = new Map<Kind, WritableTable<Kind>>();
  readonly occupancy: Occupancy;
  readonly below: EstateView;

  constructor(base: EstateView) {
    super();
    this.below = base;
    this.occupancy = base.occupancy.fork();
  }

  protected writable(kind: Kind): WritableTable<Kind> {
    let table = this.tables.get(kind);
    if (!table) this.tables.set(kind, (table = new OverlayTable(kind, this.below.table(kind)) as WritableTable<Kind>));
    return table;
  }
}

export const emptyOf = (estate: EstateView): boolean => kinds.every((kind) => estate.table(kind).size === 0);
