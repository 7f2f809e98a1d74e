import { rowName } from '../estate/effects';
import { kindWords, type Kind, type Rows } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { nameKey, type IndexName } from '../estate/table';
import { NOTHING, rule, wrong, type Rule } from './rule';

/** Fields that together occur once, and the index by which others that share them are found. */
export interface UniqueKey<K extends Kind = Kind> {
  of: K;
  fields: readonly (keyof Rows[K] & string)[];
  /** Capitals and small letters are the same. */
  folded: boolean;
  index: IndexName<K>;
  indexKey: (row: Rows[K]) => string | null;
}

const key = <K extends Kind>(
  of: K,
  fields: readonly (keyof Rows[K] & string)[],
  folded: boolean,
  index: IndexName<K>,
  indexKey: (row: Rows[K]) => string | null,
): UniqueKey => ({ of, fields, folded, index, indexKey }) as unknown as UniqueKey;

type Named = { [K in Kind]: Rows[K] extends { name: string } ? K : never }[Kind];
/** The name, in any letters, over all rows of a kind. */
const named = (of: Named): UniqueKey =>
  key(of, ['name'] as never, true, 'name' as never, (row) => nameKey('', (row as { name: string }).name));
/** The name within an array, a fabric or a host. */
const namedIn = (of: Named, scope: string): UniqueKey =>
  key(of, [scope, 'name'] as never, true, 'name' as never, (row) => {
    const within = (row as unknown as Record<string, string | null>)[scope] ?? null;
    return within === null ? null : nameKey(within, (row as { name: string }).name);
  });

/** What occurs once, kind by kind. The database has the same keys; a test compares them. */
export const uniqueKeys: readonly UniqueKey[] = [
  named('site'),
  named('array'),
  key('controller', ['array', 'name'], false, 'array', (row) => row.array),
  key('enclosure', ['array', 'number'], false, 'array', (row) => row.array),
  key('drive', ['enclosure', 'slot'], false, 'enclosure', (row) => row.enclosure),
  namedIn('raidGroup', 'array'),
  namedIn('pool', 'array'),
  named('workload'),
  namedIn('volume', 'array'),
  key('volume', ['naa'], false, 'naa', (row) => row.naa),
  named('network'),
  named('fabric'),
  named('switch'),
  named('isl'),
  namedIn('alias', 'fabric'),
  namedIn('zone', 'fabric'),
  namedIn('zoneSet', 'fabric'),
  namedIn('activeZone', 'fabric'),
  namedIn('port', 'array'),
  key('port', ['wwpn'], false, 'wwpn', (row) => row.wwpn),
  named('cluster'),
  named('host'),
  key('initiator', ['name'], false, 'iqn', (row) => row.name),
  key('interface', ['host', 'name'], false, 'host', (row) => row.host),
  key('interface', ['wwpn'], false, 'wwpn', (row) => row.wwpn),
  key('login', ['host', 'array', 'target'], false, 'host', (row) => row.host),
  key('access', ['array', 'initiator'], false, 'initiator', (row) => row.initiator),
  named('authServer'),
  named('nameServer'),
  named('discoveryDomain'),
  named('domainSet'),
  namedIn('target', 'array'),
  key('target', ['iqn'], false, 'iqn', (row) => row.iqn),
  namedIn('subsystem', 'array'),
  key('subsystem', ['nqn'], false, 'nqn', (row) => row.nqn),
  key('mapping', ['host', 'volume'], false, 'volume', (row) => row.volume),
  namedIn('hostDevice', 'host'),
  key('hostDevice', ['host', 'volume'], false, 'volume', (row) => row.volume),
];

const valueOf = (row: object, field: string): unknown => (row as Record<string, unknown>)[field];

function sameKey(unique: UniqueKey, a: object, b: object): boolean {
  return unique.fields.every((field) => {
    const [one, two] = [valueOf(a, field), valueOf(b, field)];
    return unique.folded && typeof one === 'string' && typeof two === 'string'
      ? one.toLowerCase() === two.toLowerCase()
      : one === two;
  });
}

/** Another row that bears the same key. */
export function holderOf<K extends Kind>(view: EstateView, unique: UniqueKey<K>, row: Rows[K]): Rows[K] | undefined {
  const at = unique.indexKey(row);
  if (at === null || unique.fields.some((field) => valueOf(row, field) === null)) return undefined;
  return view
    .table(unique.of)
    .by(unique.index, at)
    .find((other) => other.id !== row.id && sameKey(unique as unknown as UniqueKey, row, other));
}

const own = new Set(['name', 'slot', 'number']);

/** What a doubled key is called: the name of a thing, or what two things share. */
function sharedWords(view: EstateView, unique: UniqueKey, row: Rows[Kind]): string {
  const what = unique.fields.map((field) => {
    const value = valueOf(row, field);
    if (own.has(field) || unique.fields.length === 1) return String(value);
    const kind = field as Kind;
    const other = view.table(kind).get(String(value));
    return other ? rowName(kind, other) : String(value);
  });
  return what.join(' ');
}

export const uniqueRules: readonly Rule[] = uniqueKeys.map((unique) =>
  rule({
    of: unique.of,
    code: 'taken-twice',
    broken(view, row) {
      const holder = holderOf(view, unique, row);
      if (!holder) return NOTHING;
      return wrong(
        `There would be two of ${kindWords[unique.of]} ${sharedWords(view, unique, row)}.`,
        `Rename or take away the ${kindWords[unique.of]} ${rowName(unique.of, holder)} that has it now.`,
      );
    },
  }),
);
