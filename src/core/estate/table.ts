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

/** Rows under one key: the row itself while it is alone (most keys are names), a map by id beyond. */
type Bucket<R> = R | Map<string, R>;

/** One index: keys of a row, and the rows of a key. */
class Index<R extends { id: string }> {
  private readonly buckets = new Map<string, Bucket<R>>();

  constructor(private readonly keys: (row: R) => readonly string[]) {}

  by(key: string): readonly R[] {
    const bucket = this.buckets.get(key);
    if (bucket === undefined) return NONE;
    return bucket instanceof Map ? [...bucket.values()] : [bucket];
  }

  countBy(key: string): number {
    const bucket = this.buckets.get(key);
    if (bucket === undefined) return 0;
    return bucket instanceof Map ? bucket.size : 1;
  }

  add(row: R): void {
    for (const key of this.keys(row)) {
      const bucket = this.buckets.get(key);
      if (bucket === undefined) this.buckets.set(key, row);
      else if (bucket instanceof Map) bucket.set(row.id, row);
      else if (bucket.id === row.id) this.buckets.set(key, row);
      else
        this.buckets.set(
          key,
          new Map([
            [bucket.id, bucket],
            [row.id, row],
          ]),
        );
    }
  }

  remove(row: R): void {
    for (const key of this.keys(row)) {
      const bucket = this.buckets.get(key);
      if (bucket instanceof Map) {
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
    for (const index of this.indexes.values()) {
      if (before) index.remove(before);
      index.add(row);
    }
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
  /** Ids whose row under this overlay no longer counts. */
  private readonly hidden = new Set<string>();
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
    if (this.hidden.size === 0) return above.length === 0 ? below : [...below, ...above];
    return [...below.filter((row) => !this.hidden.has(row.id)), ...above];
  }

  countBy(index: IndexName<K>, key: string): number {
    const below = this.below.countBy(index, key);
    const above = this.above?.countBy(index, key) ?? 0;
    if (below === 0 || this.hidden.size === 0) return below + above;
    // Whichever is less is looked through: the rows under the key, or those that are hidden.
    if (below <= this.hidden.size)
      return this.below.by(index, key).reduce((count, { id }) => (this.hidden.has(id) ? count : count + 1), above);
    const keys = indexes[this.kind][index] as unknown as (row: Rows[K]) => readonly string[];
    let count = below + above;
    for (const id of this.hidden) if (keys(this.below.get(id)!).includes(key)) count -= 1;
    return count;
  }

  put(row: Rows[K]): void {
    if (!this.get(row.id)) this.added += 1;
    if (this.below.get(row.id)) this.hidden.add(row.id);
    (this.above ??= new MemoryTable(this.kind)).put(row);
  }

  delete(id: string): void {
    if (!this.get(id)) return;
    this.added -= 1;
    if (this.below.get(id)) this.hidden.add(id);
    this.above?.delete(id);
  }
}
