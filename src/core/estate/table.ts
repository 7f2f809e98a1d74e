import type { Kind, Rows } from './entities';

/** Read access to the rows of one kind. */
export interface TableView<K extends Kind> {
  readonly size: number;
  get(id: string): Rows[K] | undefined;
  values(): Iterable<Rows[K]>;
  /** The rows whose indexed field (or key function) gives this key. */
  by(index: IndexName<K>, key: string): readonly Rows[K][];
  countBy(index: IndexName<K>, key: string): number;
}

type KeysOf<R> = (row: R) => readonly string[];
const one = (key: string | null): readonly string[] => (key === null ? [] : [key]);

/** The name under which people find a row: unique within its array or kind. */
export const nameKey = (scope: string, name: string): string => `${scope}\n${name.toLowerCase()}`;

/** Which questions are asked of which kind; the answers are kept up to date with every row put or deleted. */
export const indexes = {
  site: { name: (r) => [nameKey('', r.name)] },
  array: { name: (r) => [nameKey('', r.name)], site: (r) => [r.site] },
  controller: { array: (r) => [r.array] },
  enclosure: { array: (r) => [r.array] },
  drive: {
    array: (r) => [r.array],
    enclosure: (r) => [r.enclosure],
    raidGroup: (r) => one(r.raidGroup),
    spareGroup: (r) => one(r.spareGroup),
    standsInFor: (r) => one(r.standsInFor),
  },
  raidGroup: { name: (r) => [nameKey(r.array, r.name)], array: (r) => [r.array], pool: (r) => one(r.pool) },
  pool: { name: (r) => [nameKey(r.array, r.name)], array: (r) => [r.array] },
  workload: { name: (r) => [nameKey('', r.name)] },
  volume: {
    name: (r) => [nameKey(r.array, r.name)],
    array: (r) => [r.array],
    pool: (r) => [r.pool],
    owner: (r) => [r.owner],
    naa: (r) => [r.naa],
    workload: (r) => one(r.workload),
    /** Retired and kept. */
    kept: (r) => (r.deletedAt === null ? [] : [r.pool]),
  },
  extent: { volume: (r) => one(r.volume), store: (r) => one(r.store), raidGroup: (r) => [r.raidGroup] },
  network: { name: (r) => [nameKey('', r.name)], site: (r) => [r.site] },
  fabric: { name: (r) => [nameKey('', r.name)] },
  switch: { name: (r) => [nameKey('', r.name)], fabric: (r) => [r.fabric], site: (r) => [r.site] },
  isl: { name: (r) => [nameKey('', r.name)], switch: (r) => [r.a, r.b] },
  alias: { name: (r) => [nameKey(r.fabric, r.name)], fabric: (r) => [r.fabric] },
  zone: { name: (r) => [nameKey(r.fabric, r.name)], fabric: (r) => [r.fabric] },
  zoneSet: { name: (r) => [nameKey(r.fabric, r.name)], fabric: (r) => [r.fabric], zone: (r) => r.zones },
  activeZone: {
    name: (r) => [nameKey(r.fabric, r.name)],
    fabric: (r) => [r.fabric],
    member: (r) => [...r.members, ...r.principals].map((member) => `${r.fabric} ${member}`),
  },
  port: {
    name: (r) => [nameKey(r.array, r.name)],
    array: (r) => [r.array],
    controller: (r) => [r.controller],
    ip: (r) => r.addresses.map((a) => a.ip),
    wwpn: (r) => one(r.wwpn),
    switch: (r) => one(r.switch),
  },
  cluster: { name: (r) => [nameKey('', r.name)] },
  host: { name: (r) => [nameKey('', r.name)], site: (r) => [r.site], cluster: (r) => one(r.cluster) },
  initiator: { host: (r) => [r.host], iqn: (r) => [r.name] },
  interface: {
    host: (r) => one(r.host),
    ip: (r) => r.addresses.map((a) => a.ip),
    wwpn: (r) => one(r.wwpn),
    switch: (r) => one(r.switch),
    /** Logged in somewhere, and nobody's yet. */
    unclaimed: (r) => (r.host === null ? [''] : []),
  },
  login: { host: (r) => [r.host], array: (r) => [r.array], target: (r) => one(r.target) },
  access: { array: (r) => [r.array], initiator: (r) => [r.initiator] },
  authServer: { name: (r) => [nameKey('', r.name)] },
  nameServer: { name: (r) => [nameKey('', r.name)] },
  discoveryDomain: { name: (r) => [nameKey('', r.name)], member: (r) => r.members },
  domainSet: { name: (r) => [nameKey('', r.name)], domain: (r) => r.domains },
  target: {
    name: (r) => [nameKey(r.array, r.name)],
    array: (r) => [r.array],
    iqn: (r) => [r.iqn],
    authServer: (r) => one(r.authServer),
  },
  subsystem: { name: (r) => [nameKey(r.array, r.name)], array: (r) => [r.array], nqn: (r) => [r.nqn] },
  mapping: {
    host: (r) => [r.host],
    volume: (r) => [r.volume],
    port: (r) => r.ports ?? [],
    cluster: (r) => one(r.cluster),
    target: (r) => one(r.target),
    subsystem: (r) => one(r.subsystem),
  },
  hostDevice: { host: (r) => [r.host], volume: (r) => [r.volume], name: (r) => [nameKey(r.host, r.name)] },
  job: {
    array: (r) => [r.array],
    raidGroup: (r) => one(r.raidGroup),
    pool: (r) => one(r.pool),
    volume: (r) => one(r.volume),
    drive: (r) => one(r.drive),
    partners: (r) => r.partners,
  },
  mute: { check: (r) => [r.check] },
} satisfies { [K in Kind]: Record<string, KeysOf<Rows[K]>> };

export type IndexName<K extends Kind> = keyof (typeof indexes)[K] & string;

const keysOf = <K extends Kind>(kind: K): [string, KeysOf<Rows[K]>][] =>
  Object.entries<KeysOf<Rows[K]>>(indexes[kind] as unknown as Record<string, KeysOf<Rows[K]>>);

const NONE: readonly never[] = [];

/** Rows under one key: the row itself while it is alone (most keys are names), a map by id beyond. */
type Bucket<R> = R | Map<string, R>;

/** One index: keys of a row, and the rows of a key. */
class Index<R extends { id: string }> {
  private readonly buckets = new Map<string, Bucket<R>>();

  constructor(private readonly keys: KeysOf<R>) {}

  by(key: string): readonly R[] {
    const bucket = this.buckets.get(key);
    if (bucket === undefined) return NONE;
    return bucket instanceof Map ? [...bucket.values()] : [bucket];
  }

  countBy(key: string): number {
    const bucket = this.buckets.get(key);
    return bucket === undefined ? 0 : bucket instanceof Map ? bucket.size : 1;
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
    const keys = (indexes[this.kind] as Record<string, KeysOf<Rows[K]>>)[index]!;
    let count = this.below.countBy(index, key) + (this.above?.countBy(index, key) ?? 0);
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
