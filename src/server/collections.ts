import { kindOf, kinds, kindWords, rowSchemas, type Kind, type Row } from '@/core/estate/entities';
import type { EstateView } from '@/core/estate/estate';
import { poolOf } from '@/core/estate/relations';
import { lookUpDrive } from '@/core/operation/inquiry';
import { references } from '@/core/estate/references';
import { isSecretField } from '@/core/kinds/secret-field';
import { poolUsage } from '@/core/pool/usage';
import { groupHealth } from '@/core/raid/health';
import { Problem } from './problem';

/** The path of a kind's collection in the API. */
export const collectionPath = (kind: Kind): string => kindOf[kind].path;
const byPath = new Map(kinds.map((kind) => [collectionPath(kind), kind]));

export function kindOfCollection(path: string): Kind {
  const kind = byPath.get(path);
  if (!kind)
    throw new Problem(
      404,
      'collection-unknown',
      `There is no collection ${path}.`,
      `Known are: ${[...byPath.keys()].join(', ')}.`,
    );
  return kind;
}

/** A row as the API shows it: its fields, and what is derived from the rest of the estate. */
function shown(view: EstateView, kind: Kind, row: Row): Record<string, unknown> & { id: string } {
  if (kind === 'pool') {
    const { groups: _groups, ...usage } = poolUsage(view, row as never);
    return { ...row, usage };
  }
  if (kind === 'volume') {
    const pool = poolOf(view, row as { pool: string });
    return { ...row, held: view.occupancy.allocated(row.id) * (pool?.extentSize ?? 0) };
  }
  if (kind === 'raidGroup') {
    const { state, tolerates } = groupHealth(view, row as never);
    return { ...row, state, tolerates };
  }
  return { ...row };
}

/** The value of a reference may be given by id or by name. */
function matches(view: EstateView, kind: Kind, row: Row, field: string, wanted: string): boolean {
  const value = (row as unknown as Record<string, unknown>)[field];
  if (String(value) === wanted) return true;
  const reference = references.find((one) => one.from === kind && one.field === field);
  if (!reference || typeof value !== 'string') return false;
  return (view.table(reference.to).get(value) as { name?: string } | undefined)?.name === wanted;
}

const PAGING = ['limit', 'offset'];

export function listCollection(view: EstateView, kind: Kind, query: URLSearchParams, limit: number, offset: number) {
  const filters = [...query].filter(([name]) => !PAGING.includes(name));
  // By what is secret nobody filters: the answers would tell which are equal.
  const fields = Object.keys(rowSchemas[kind].shape).filter((field) => !isSecretField(field));
  const strange = filters.find(([name]) => !fields.includes(name));
  if (strange)
    throw new Problem(
      400,
      'filter-unknown',
      `${strange[0]} is no field of ${kindWords[kind]}.`,
      `Filter by: ${fields.join(', ')}.`,
    );
  const found = [...view.table(kind).values()].filter((row) =>
    filters.every(([field, wanted]) => matches(view, kind, row, field, wanted)),
  );
  return {
    total: found.length,
    limit,
    offset,
    items: found.slice(offset, offset + limit).map((row) => shown(view, kind, row)),
  };
}

/** One row by id, by name, or by `array/name` where a name is unique only within its array; a drive by `array/enclosure:slot`. */
export function oneOfCollection(view: EstateView, kind: Kind, key: readonly string[]) {
  const table = view.table(kind);
  const [first = '', second] = key;
  const byId = table.get(first);
  if (byId && second === undefined) return shown(view, kind, byId);
  const scope =
    second === undefined
      ? null
      : [...view.table('array').values(), ...view.table('host').values()].find(
          (row) => row.id === first || row.name === first,
        );
  const name = second ?? first;
  if (kind === 'drive' && scope) {
    const drive = lookUpDrive(view, name, scope.id);
    if (drive) return shown(view, kind, drive);
  }
  const found = ([...table.values()] as (Row & { name?: string; array?: string; host?: string })[]).filter(
    (row) =>
      row.name?.toLowerCase() === name.toLowerCase() &&
      (second === undefined || (scope && (row.array === scope.id || row.host === scope.id))),
  );
  if (found.length === 1) return shown(view, kind, found[0]!);
  if (found.length > 1)
    throw new Problem(
      409,
      'name-ambiguous',
      `${found.length} of ${kindWords[kind]} are named ${name}.`,
      'Name its array too: /array/name.',
    );
  throw new Problem(
    404,
    'not-found',
    `There is no ${kindWords[kind]} ${key.join('/')}.`,
    'Name it by id, by name, or as array/name.',
  );
}
