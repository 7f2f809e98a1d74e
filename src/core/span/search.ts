import { kindOf, type Kind, type Rows } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { hexDigits } from '../naming/identity';
import { whole, type InParts } from '../units/in-parts';
import { sources, type Called, type Hit, type Source, type Wanted } from './search-sources';
import { rowsHolding } from './search-texts';

/** Rows that are asked for names by others in one go. */
const PART = 100;

/** Kinds whose rows are looked through. */
export const soughtKinds: ReadonlySet<Kind> = new Set(sources.map(({ kind }) => kind));

const fieldsOf = (kind: Kind): readonly (readonly [field: string, label: string])[] =>
  Object.entries(kindOf[kind].searched ?? {});
const fieldOf = (row: object, field: string): unknown => (row as Record<string, unknown>)[field];

/** What a row is called beside its name. */
function calledOf(of: Source<Kind>, row: Rows[Kind]): readonly Called[] {
  const named = 'name' in row ? of.nameIs?.(row) : null;
  return [
    ...(named ? [[named, (row as { name: string }).name] as const] : []),
    ...fieldsOf(of.kind).flatMap(([field, label]): Called[] => {
      const value = fieldOf(row, field);
      return typeof value === 'string' ? [[label, value]] : [];
    }),
    ...(of.alsoCalled?.(row) ?? []),
  ];
}

/** The row's own name first, where it is that of the hit; then whatever else it is called. */
function textOf(of: Source<Kind>): (row: Rows[Kind]) => string {
  const fields = fieldsOf(of.kind);
  return (row) => {
    let text = 'name' in row && (!of.nameIs || of.nameIs(row)) ? row.name : '';
    if (of.nameIs) text = `\n${text}`;
    for (const [field] of fields) {
      const value = fieldOf(row, field);
      if (typeof value === 'string') text += `\n${value}`;
    }
    for (const [, value] of of.alsoCalled?.(row) ?? []) text += `\n${value}`;
    return text.toLowerCase();
  };
}
const textsOf = new Map(sources.map((of) => [of.kind, textOf(of)]));

/** The best hits, each thing once: by names that begin with the text, by names that hold it, by whatever else does. */
class Hits {
  private readonly ranks: [Hit[], Hit[], Hit[]] = [[], [], []];
  private readonly told = new Set<string>();

  constructor(private readonly limit: number) {}

  /** Nothing found later could be told before these. */
  get enough(): boolean {
    return this.ranks[0].length >= this.limit;
  }

  has(rank: 0 | 1 | 2): boolean {
    return this.ranks[rank].length >= this.limit;
  }

  add(rank: 0 | 1 | 2, hit: Hit): void {
    if (this.has(rank) || this.told.has(hit.id)) return;
    this.told.add(hit.id);
    this.ranks[rank].push(hit);
  }

  best(): Hit[] {
    return this.ranks.flat().slice(0, this.limit);
  }
}

/**
 * Things whose name, IQN, NAA name, serial, address, mount point, FCID or slot contains the text, best first: names that begin with it, then names that hold
 * it, then the rest. Case, prefixes such as `naa.` and `0x`, colons, hyphens and spaces in hexadecimal names do not matter.
 */
export const search = (view: EstateView, text: string, limit = 12): Hit[] => whole(searching(view, text, limit));

/** The same in slices. */
export function* searching(view: EstateView, text: string, limit = 12): InParts<Hit[]> {
  const wanted = text.trim().toLowerCase();
  if (wanted === '') return [];
  const digits = hexDigits(wanted);
  const hits = new Hits(limit);
  for (const of of sources) {
    yield* lookThrough(view, of, { text: wanted, digits }, hits);
    if (hits.enough) break;
  }
  return hits.best();
}

function* lookThrough(view: EstateView, of: Source<Kind>, wanted: Wanted, hits: Hits): InParts<void> {
  const needles = wanted.digits === null ? [wanted.text] : [wanted.text, wanted.digits];
  const holds = (value: string): boolean => needles.some((needle) => value.includes(needle));
  const tell = (rank: 0 | 1 | 2, row: Rows[Kind], called?: Called): void => {
    if (hits.has(rank)) return;
    const hit = of.tells(view, row);
    hits.add(rank, called ? { ...hit, where: `${hit.where}, ${called[0]} ${called[1]}` } : hit);
  };
  const rows = yield* rowsHolding(view, of.kind, textsOf.get(of.kind)!, needles);
  for (const [row, text] of rows) {
    const at = text.indexOf(wanted.text);
    const inName = at > 0 && !text.slice(0, at).includes('\n');
    if (at === 0) tell(0, row);
    else if (inName) tell(1, row);
    else if (!hits.has(2) && holds(text))
      tell(
        2,
        row,
        calledOf(of, row).find(([, value]) => holds(value.toLowerCase())),
      );
    if (hits.enough) return;
  }
  yield;
  if (!of.throughOthers?.when(wanted)) return;
  let looked = 0;
  for (const row of view.table(of.kind).values()) {
    if (hits.has(2)) return;
    if (++looked % PART === 0) yield;
    if (of.throughOthers.perhaps?.(view, row, wanted) === false) continue;
    const called = of.throughOthers.names(view, row).find(([, value]) => holds(value.toLowerCase()));
    if (called) tell(2, row, called);
  }
}
