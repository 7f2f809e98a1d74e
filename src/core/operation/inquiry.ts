import { kindWords, type Drive, type Kind, type Rows } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { enclosureOf } from '../estate/relations';
import { nameKey, type IndexName } from '../estate/table';
import { nearMiss } from '../naming/nearness';
import { parseName, parseWorkloadName } from '../naming/names';
import type { Parsed } from '../units/parsed';
import type { Refusal, Subject } from './refusal';

/** Kinds that people call by a name. */
export type NamedKind = { [K in Kind]: Rows[K] extends { name: string } ? K : never }[Kind];

/** Asks the estate for what an operation names, and collects every refusal instead of stopping at the first. */
export interface Inquiry {
  readonly refusals: Refusal[];
  refuse(refusal: Refusal): void;
  /** A row by name or id; `scope` is the id of the array (or host) within which the name is unique. */
  find<K extends NamedKind>(
    kind: K,
    ref: string,
    field: string,
    scope?: { id: string; name: string },
  ): Rows[K] | undefined;
  /** A drive by `enclosure:slot` or id. */
  drive(ref: string, field: string, array: { id: string; name: string }): Drive | undefined;
  /** A name that is well formed and not taken by another than `own`, the row that is renamed. */
  freeName<K extends NamedKind>(
    kind: K,
    text: string,
    scope?: { id: string; name: string },
    field?: string,
    own?: { id: string },
  ): string | undefined;
  /** The value of a text that was read, or a refusal in the reader's words. */
  value<T>(result: Parsed<T>, field: string, subject: Subject, mend?: string): T | undefined;
}

/** Kinds that bear names for people, with spaces: nothing is told to a device by them. */
const spoken: ReadonlySet<NamedKind> = new Set<NamedKind>([
  'workload',
  'plan',
  'siteLink',
  'replication',
  'witness',
  'serviceClass',
  'keptRequest',
  'allotment',
  'wavePlan',
  'move',
]);

export function inquire(view: EstateView): Inquiry {
  const refusals: Refusal[] = [];
  const refuse = (refusal: Refusal) => void refusals.push(refusal);

  return {
    refusals,
    refuse,
    find(kind, ref, field, scope) {
      const row = lookUp(view, kind, ref, scope?.id);
      if (!row) refuse(unknown(view, kind, ref, field, scope));
      return row;
    },
    drive(ref, field, array) {
      const drive = lookUpDrive(view, ref, array.id);
      if (!drive)
        refuse({
          code: 'drive-unknown',
          field,
          subject: { kind: 'drive', name: ref },
          message: `${array.name} has no drive ${ref}.`,
          mend: 'Name a drive as enclosure:slot, such as 1:0.',
        });
      return drive;
    },
    freeName(kind, text, scope, field = 'name', own) {
      const result = (spoken.has(kind) ? parseWorkloadName : parseName)(text, kindWords[kind]);
      const name = this.value(result, field, { kind, name: text });
      if (name === undefined) return undefined;
      const taken = lookUp(view, kind, name, scope?.id);
      if (taken && taken.id !== own?.id) {
        refuse({
          code: 'name-taken',
          field,
          subject: { kind, id: taken.id, name },
          message: `${scope ? `${scope.name} has a ${kindWords[kind]} named ${taken.name}` : `There is a ${kindWords[kind]} named ${taken.name}`} already.`,
          mend: 'Choose another name.',
        });
        return undefined;
      }
      return name;
    },
    value(result, field, subject, mend) {
      if (result.ok) return result.value;
      const [problem, ...rest] = result.message.split(/(?<=\.) (?=[A-Z])/);
      refuse({
        code: result.reason,
        field,
        subject,
        message: problem!,
        mend: mend ?? (rest.join(' ') || 'Correct it.'),
      });
      return undefined;
    },
  };
}

/** A row by id, or by name within its scope. */
export function lookUp<K extends NamedKind>(view: EstateView, kind: K, ref: string, scope = ''): Rows[K] | undefined {
  const table = view.table(kind);
  const byId = table.get(ref);
  if (byId) return byId;
  if (kind === 'controller' || kind === 'interface') {
    const within = table.by((kind === 'controller' ? 'array' : 'host') as IndexName<K>, scope);
    return within.find((row) => (row as { name: string }).name === ref);
  }
  return table.by('name' as IndexName<K>, nameKey(scope, ref))[0];
}

export function lookUpDrive(view: EstateView, ref: string, array: string): Drive | undefined {
  const byId = view.table('drive').get(ref);
  if (byId) return byId.array === array ? byId : undefined;
  const match = /^(\d+):(\d+)$/.exec(ref.trim());
  if (!match) return undefined;
  const enclosure = view
    .table('enclosure')
    .by('array', array)
    .find((row) => row.number === Number(match[1]));
  return (
    enclosure &&
    view
      .table('drive')
      .by('enclosure', enclosure.id)
      .find((row) => row.slot === Number(match[2]))
  );
}

/** `enclosure:slot`, as people write a drive. */
export function driveRef(view: EstateView, drive: Drive): string {
  return `${enclosureOf(view, drive).number}:${drive.slot}`;
}

function unknown(
  view: EstateView,
  kind: NamedKind,
  ref: string,
  field: string,
  scope?: { id: string; name: string },
): Refusal {
  const names = namesOf(view, kind, scope?.id);
  const near = nearMiss(
    ref.toLowerCase(),
    names.map((name) => name.toLowerCase()),
  );
  const nearName = near && names.find((name) => name.toLowerCase() === near.known);
  const few = names.length > 0 && names.length <= 6 ? `Known are: ${names.join(', ')}.` : 'Check the name.';
  return {
    code: `${kind.replace(/[A-Z]/g, (c) => `-${c.toLowerCase()}`)}-unknown`,
    field,
    subject: { kind, name: ref },
    message:
      ref === ''
        ? `No ${kindWords[kind]} is named.`
        : `${scope ? `${scope.name} has` : 'There is'} no ${kindWords[kind]} named ${ref}.`,
    mend: nearName ? `Perhaps ${nearName} is meant.` : few,
  };
}

/** Names of a kind within a scope; none where asking would mean reading thousands of rows. */
function namesOf(view: EstateView, kind: NamedKind, scope?: string): string[] {
  const table = view.table(kind);
  if (table.size > 2000) return [];
  const rows = [...table.values()].filter(
    (row) => !scope || [(row as { array?: string }).array, (row as { host?: string }).host].includes(scope),
  );
  return rows.map((row) => row.name).sort();
}
