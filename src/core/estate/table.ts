import type { declarations } from '../kinds/all';
import { nameKey, type KindDeclaration, type Relation } from '../kinds/kind';
import { kindOf, kinds, type Kind, type Rows } from './entities';

export { nameKey };

/** Read access to the rows of one kind. */
export interface TableView<K extends Kind> {
  readonly size: number;
  get(id: string): Rows[K] | undefined;
  values(): Iterable<Rows[K]>;
  /** The rows whose indexed field (or key function) gives this key. */
  by(index: IndexName<K>, key: string): readonly Rows[K][];
  countBy(index: IndexName<K>, key: string): number;
}

type IndexNames = {
  [K in Kind]:
    | IndexOfRelation<RelationsOf<(typeof declarations)[K]>>
    | ((typeof declarations)[K] extends { named?: infer N } ? (N extends string ? 'name' : never) : never)
    | ((typeof declarations)[K] extends { once?: readonly (infer F)[] } ? F : never)
    | ((typeof declarations)[K] extends { indexes?: infer I } ? keyof NonNullable<I> : never);
};
/** Names of the indexes of a kind: of what it refers to, of what occurs once, and its own. */
export type IndexName<K extends Kind> = IndexNames[K] & string;

type RelationsOf<D> = D extends { refers?: infer R } ? NonNullable<R> : never;
type IndexOfRelation<R> = {
  [F in keyof R]: R[F] extends Relation<string, infer By>
    ? undefined extends By
      ? F
      : By extends string
        ? By
        : never
    : never;
}[keyof R];

type KeysOf = (row: never) => readonly string[];

function listed(value: unknown): readonly string[] {
  if (value === null || value === undefined) return [];
  return Array.isArray(value) ? (value as string[]) : [value as string];
}
const fieldOf = (row: object, field: string): unknown => (row as Record<string, unknown>)[field];

const keysFrom = ([first, ...others]: readonly string[]): ((row: object) => readonly string[]) =>
  others.length === 0
    ? (row) => listed(fieldOf(row, first!))
    : (row) => [first!, ...others].flatMap((field) => listed(fieldOf(row, field)));

/** Which questions are asked of a kind; the answers are kept up to date with every row put or deleted. */
export function indexesOf({
  refers = {},
  named,
  once = [],
  indexes: own = {},
}: KindDeclaration): Record<string, KeysOf> {
  const fieldsBy = new Map<string, string[]>();
  for (const [field, { by }] of Object.entries(refers))
    if (by !== null) fieldsBy.set(by ?? field, [...(fieldsBy.get(by ?? field) ?? []), field]);
  for (const field of once) fieldsBy.set(field, [field]);
  return {
    ...(named === undefined
      ? {}
      : {
          name: (row: { name: string }) => [nameKey(named === '' ? '' : String(fieldOf(row, named)), row.name)],
        }),
    ...Object.fromEntries([...fieldsBy].map(([by, fields]) => [by, keysFrom(fields)])),
    ...own,
  };
}

export const indexes = Object.fromEntries(kinds.map((kind) => [kind, indexesOf(kindOf[kind])])) as Record<
  Kind,
  Readonly<Record<string, KeysOf>>
>;

const keysOf = <K extends Kind>(kind: K): [string, (row: Rows[K]) => readonly string[]][] =>
  Object.entries(indexes[kind]) as [string, (row: Rows[K]) => readonly string[]][];

const NONE: readonly never[] = [];

/** Rows under one key where there are several: by id, and in a list that is made when it is asked for and holds until they change. */
class Many<R extends { id: string }> {
  private readonly rows: Map<string, R>;
  private list: readonly R[] | null = null;

  constructor(first: R, second: R) {
    this.rows = new Map([
      [first.id, first],
      [second.id, second],
    ]);
  }

  get size(): number {
    return this.rows.size;
  }

  get all(): readonly R[] {
    return (this.list ??= [...this.rows.values()]);
  }

  put(row: R): void {
    this.rows.set(row.id, row);
    this.list = null;
  }

  delete(id: string): void {
    this.rows.delete(id);
    this.list = null;
  }
}

/** Rows under one key: the row itself while it is alone (most keys are names). */
type Bucket<R extends { id: string }> = R | Many<R>;

/** One index: keys of a row, and the rows of a key. */
class Index<R extends { id: string }> {
  private readonly buckets = new Map<string, Bucket<R>>();

  constructor(private readonly keys: (row: R) => readonly string[]) {}

  by(key: string): readonly R[] {
    const bucket = this.buckets.get(key);
    if (bucket === undefined) return NONE;
    return bucket instanceof Many ? bucket.all : [bucket];
  }

  countBy(key: string): number {
    const bucket = this.buckets.get(key);
    if (bucket === undefined) return 0;
    return bucket instanceof Many ? bucket.size : 1;
  }

  add(row: R): void {
    for (const key of this.keys(row)) {
      const bucket = this.buckets.get(key);
      if (bucket === undefined) this.buckets.set(key, row);
      else if (bucket instanceof Many) bucket.put(row);
      else this.buckets.set(key, bucket.id === row.id ? row : new Many(bucket, row));
    }
  }

  /** A row in the place of what it was: under the same keys it stays where it stands among the others. */
  replace(before: R, row: R): void {
    const keys = this.keys(row);
    const had = this.keys(before);
    if (keys.length === had.length && keys.every((key, k) => key === had[k])) return this.add(row);
    this.remove(before);
    this.add(row);
  }

  remove(row: R): void {
    for (const key of this.keys(row)) {
      const bucket = this.buckets.get(key);
      if (bucket instanceof Many) {
        bucket.delete(row.id);
        if (bucket.size === 0) this.buckets.delete(key);
      } else if (bucket?.id === row.id) this.buckets.delete(key);
    }
  }
}

/** Rows by id with their indexes. Rows are never changed in place. */
export class MemoryTable<K extends Kind> implements TableView<K> {
  private readonly rows = new Map<string, Rows[K]>();
  private readonly indexes: ReadonlyMap<string, Index<Rows[K]>>;

  constructor(kind: K) {
    this.indexes = new Map(keysOf(kind).map(([name, keys]) => [name, new Index(keys)]));
  }

  get size(): number {
    return this.rows.size;
  }

  get(id: string): Rows[K] | undefined {
    return this.rows.get(id);
  }

  values(): Iterable<Rows[K]> {
    return this.rows.values();
  }

  by(index: IndexName<K>, key: string): readonly Rows[K][] {
    return this.indexes.get(index)!.by(key);
  }

  countBy(index: IndexName<K>, key: string): number {
    return this.indexes.get(index)!.countBy(key);
  }

  put(row: Rows[K]): void {
    const before = this.rows.get(row.id);
    this.rows.set(row.id, row);
    for (const index of this.indexes.values())
      if (before) index.replace(before, row);
      else index.add(row);
  }

  delete(id: string): void {
    const before = this.rows.get(id);
    if (!before) return;
    this.rows.delete(id);
    for (const index of this.indexes.values()) index.remove(before);
  }
}

/** A table laid over another: what was put or deleted here hides what lies under it, which stays as it is. */
export class OverlayTable<K extends Kind> implements TableView<K> {
  /** Made with the first row that is put: most tables of an overlay stay empty. */
  private above: MemoryTable<K> | null = null;
  /** Rows under this overlay that no longer count, by id. */
  private readonly hidden = new Map<string, Rows[K]>();
  /** The same by the keys of those indexes that were asked. */
  private readonly hiddenBy = new Map<string, Index<Rows[K]>>();
  private added = 0;

  constructor(
    private readonly kind: K,
    private readonly below: TableView<K>,
  ) {}

  get size(): number {
    return this.below.size + this.added;
  }

  get(id: string): Rows[K] | undefined {
    return this.above?.get(id) ?? (this.hidden.has(id) ? undefined : this.below.get(id));
  }

  *values(): Iterable<Rows[K]> {
    for (const row of this.below.values()) if (!this.hidden.has(row.id)) yield row;
    if (this.above) yield* this.above.values();
  }

  by(index: IndexName<K>, key: string): readonly Rows[K][] {
    const below = this.below.by(index, key);
    const above = this.above?.by(index, key) ?? NONE;
    const seen = this.hiddenUnder(index, key) === 0 ? below : below.filter((row) => !this.hidden.has(row.id));
    if (above.length === 0) return seen;
    return seen.length === 0 ? above : [...seen, ...above];
  }

  countBy(index: IndexName<K>, key: string): number {
    return this.below.countBy(index, key) - this.hiddenUnder(index, key) + (this.above?.countBy(index, key) ?? 0);
  }

  /** How many rows under a key are hidden here. */
  private hiddenUnder(index: IndexName<K>, key: string): number {
    if (this.hidden.size === 0) return 0;
    let found = this.hiddenBy.get(index);
    if (!found) {
      found = new Index(indexes[this.kind][index] as unknown as (row: Rows[K]) => readonly string[]);
      for (const row of this.hidden.values()) found.add(row);
      this.hiddenBy.set(index, found);
    }
    return found.countBy(key);
  }

  put(row: Rows[K]): void {
    if (!this.get(row.id)) this.added += 1;
    this.hide(row.id);
    (this.above ??= new MemoryTable(this.kind)).put(row);
  }

  delete(id: string): void {
    if (!this.get(id)) return;
    this.added -= 1;
    this.hide(id);
    this.above?.delete(id);
  }

  private hide(id: string): void {
    if (this.hidden.has(id)) return;
    const row = this.below.get(id);
    if (!row) return;
    this.hidden.set(id, row);
    for (const index of this.hiddenBy.values()) index.add(row);
  }
}
