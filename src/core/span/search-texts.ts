import type { Kind, Rows } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { InParts } from '../units/in-parts';

/** Rows whose texts are looked through in one go. */
const CHUNK = 256;
const BETWEEN = '\u0001';

/**
 * The texts of all rows of one kind, laid end to end in chunks, so that most rows are passed by without being looked at. They are kept while the
 * kind does not change; after a change only chunks with another text are laid anew.
 */
class KindTexts<K extends Kind> {
  private revision = -1;
  private rows: Rows[K][] = [];
  private texts: string[] = [];
  private chunks: (string | null)[] = [];

  constructor(private readonly textOf: (row: Rows[K]) => string) {}

  *refresh(view: EstateView, kind: K): InParts<void> {
    const revision = view.revision(kind);
    if (revision === this.revision) return;
    const before = this.rows;
    const rows: Rows[K][] = [];
    const texts: string[] = [];
    let elsewhere: Map<string, number> | null = null;
    for (const row of view.table(kind).values()) {
      const k = rows.length;
      rows.push(row);
      if (k % CHUNK === CHUNK - 1) yield;
      if (this.rows[k] === row) {
        texts.push(this.texts[k]!);
        continue;
      }
      // A row that came or went has moved the others.
      let at: number | undefined = k;
      if (this.rows[k]?.id !== row.id) {
        elsewhere ??= new Map(this.rows.map(({ id }, place) => [id, place]));
        at = elsewhere.get(row.id);
      }
      const text = at !== undefined && this.rows[at] === row ? this.texts[at]! : this.textOf(row);
      texts.push(text);
      if (text !== this.texts[k]) this.chunks[Math.floor(k / CHUNK)] = null;
    }
    // Another look has come in between and left other rows: what was compared with them is void.
    if (this.rows !== before) return yield* this.refresh(view, kind);
    // Rows that are gone at the end leave their chunk shorter.
    if (rows.length < this.rows.length) this.chunks[Math.floor(rows.length / CHUNK)] = null;
    this.chunks.length = Math.ceil(rows.length / CHUNK);
    this.rows = rows;
    this.texts = texts;
    this.revision = revision;
  }

  /** Rows with their text, of the chunks that hold one of the needles. */
  *holding(needles: readonly string[]): Generator<readonly [row: Rows[K], text: string], void, unknown> {
    for (let at = 0; at < this.chunks.length; at++) {
      const from = at * CHUNK;
      const chunk = (this.chunks[at] ??= this.texts.slice(from, from + CHUNK).join(BETWEEN));
      if (!needles.some((needle) => chunk.includes(needle))) continue;
      for (let k = from; k < Math.min(from + CHUNK, this.rows.length); k++) yield [this.rows[k]!, this.texts[k]!];
    }
  }
}

const kept = new WeakMap<EstateView, Map<Kind, KindTexts<Kind>>>();

/** Rows of a kind with their text, in the order of the estate, without most of those whose text holds none of the needles. */
export function* rowsHolding<K extends Kind>(
  view: EstateView,
  kind: K,
  textOf: (row: Rows[K]) => string,
  needles: readonly string[],
): InParts<Generator<readonly [row: Rows[K], text: string], void, unknown>> {
  let ofView = kept.get(view);
  if (!ofView) {
    ofView = new Map<Kind, KindTexts<Kind>>();
    kept.set(view, ofView);
  }
  const known = ofView.get(kind) as unknown as KindTexts<K> | undefined;
  const texts: KindTexts<K> = known ?? new KindTexts<K>(textOf);
  if (!known) ofView.set(kind, texts as unknown as KindTexts<Kind>);
  yield* texts.refresh(view, kind);
  return texts.holding(needles);
}
