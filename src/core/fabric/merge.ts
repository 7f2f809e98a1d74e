import { byCodePoint } from '../units/order';
/** One fabric as the other sees it when a link between them comes up (FC-SW merge). */
export interface MergeSide {
  /** Zones of the active set by name; null while none is active. */
  zones: ReadonlyMap<
    string,
    { kind: 'ordinary' | 'peer'; members: readonly string[]; principals: readonly string[] }
  > | null;
  setName: string | null;
  aliases: ReadonlyMap<string, readonly string[]>;
  defaultZone: 'deny' | 'permit';
  mergeControl: 'allow' | 'restrict';
  domains: readonly number[];
  raTov: number;
  edTov: number;
}

export type MergeConflictKind =
  | 'timer-mismatch'
  | 'domain-overlap'
  | 'default-zone-differs'
  | 'merge-control-differs'
  | 'restrict-not-identical'
  | 'zone-content-differs'
  | 'zone-kind-differs'
  | 'alias-content-differs'
  | 'name-kind-clash';

export interface MergeConflict {
  kind: MergeConflictKind;
  /** The zone, alias, domain or timer. */
  name: string;
  message: string;
}

type Zones = NonNullable<MergeSide['zones']>;
export interface MergeResult {
  outcome: 'merged' | 'isolated';
  conflicts: MergeConflict[];
  zones: Zones;
  aliases: ReadonlyMap<string, readonly string[]>;
  /** The active set's name, or both to choose from. */
  setNames: string[];
}

const sameSet = (a: readonly string[], b: readonly string[]): boolean => {
  const left = new Set(a.map((member) => member.toLowerCase()));
  const right = new Set(b.map((member) => member.toLowerCase()));
  return left.size === right.size && [...left].every((member) => right.has(member));
};
const none: Zones = new Map();

/**
 * What happens when two fabrics are joined: merged, or isolated with every conflict, in the order of the rules and then by name. Members are
 * compared as sets; zone names are case-sensitive. Commutative.
 */
export function mergeFabrics(a: MergeSide, b: MergeSide): MergeResult {
  const conflicts: MergeConflict[] = [];
  const add = (kind: MergeConflictKind, name: string, message: string) => conflicts.push({ kind, name, message });
  if (a.edTov !== b.edTov)
    add(
      'timer-mismatch',
      'E_D_TOV',
      `E_D_TOV is ${Math.min(a.edTov, b.edTov)} ms on one side, ${Math.max(a.edTov, b.edTov)} ms on the other.`,
    );
  if (a.raTov !== b.raTov)
    add(
      'timer-mismatch',
      'R_A_TOV',
      `R_A_TOV is ${Math.min(a.raTov, b.raTov)} ms on one side, ${Math.max(a.raTov, b.raTov)} ms on the other.`,
    );
  for (const domain of a.domains.filter((one) => b.domains.includes(one)).sort((x, y) => x - y))
    add('domain-overlap', String(domain), `Domain ${domain} is in both.`);
  if (a.defaultZone !== b.defaultZone)
    add('default-zone-differs', 'default zone', 'The default zone denies on one side and permits on the other.');
  if (a.mergeControl !== b.mergeControl)
    add('merge-control-differs', 'merge control', 'Merge control allows on one side and restricts on the other.');
  const [left, right] = [a.zones ?? none, b.zones ?? none];
  const both = [...left.keys()].filter((name) => right.has(name)).sort(byCodePoint);
  const differs = (name: string): boolean => {
    const [x, y] = [left.get(name)!, right.get(name)!];
    return !sameSet(x.members, y.members) || !sameSet(x.principals, y.principals);
  };
  if (a.mergeControl === 'restrict' && b.mergeControl === 'restrict') {
    const same =
      left.size === right.size &&
      both.length === left.size &&
      !both.some((name) => differs(name) || left.get(name)!.kind !== right.get(name)!.kind) &&
      (a.zones === null) === (b.zones === null);
    if (!same)
      add(
        'restrict-not-identical',
        'active zone set',
        'Both sides restrict merges, and their active zones are not the same.',
      );
  } else
    for (const name of both) {
      if (left.get(name)!.kind !== right.get(name)!.kind)
        add('zone-kind-differs', name, `Zone ${name} is a peer zone on one side and an ordinary one on the other.`);
      else if (differs(name)) add('zone-content-differs', name, `Zone ${name} has other members on the two sides.`);
    }
  for (const name of [...a.aliases.keys()].filter((one) => b.aliases.has(one)).sort(byCodePoint))
    if (!sameSet(a.aliases.get(name)!, b.aliases.get(name)!))
      add('alias-content-differs', name, `Alias ${name} has other members on the two sides.`);
  const clashes = [
    ...[...left.keys()].filter((name) => b.aliases.has(name)),
    ...[...right.keys()].filter((name) => a.aliases.has(name)),
  ];
  for (const name of [...new Set(clashes)].sort(byCodePoint))
    add('name-kind-clash', name, `${name} is a zone on one side and an alias on the other.`);
  const names = [a.setName, b.setName].filter((name): name is string => name !== null);
  return {
    outcome: conflicts.length === 0 ? 'merged' : 'isolated',
    conflicts,
    zones: conflicts.length === 0 ? new Map([...left, ...right]) : none,
    aliases: conflicts.length === 0 ? new Map([...a.aliases, ...b.aliases]) : new Map(),
    setNames: [...new Set(names)].sort(byCodePoint),
  };
}

/** The outcome for two fabrics by name, with how much would stand afterwards. */
export interface MergeAnswer extends Pick<MergeResult, 'outcome' | 'conflicts' | 'setNames'> {
  a: string;
  b: string;
  zones: number;
  aliases: number;
}
