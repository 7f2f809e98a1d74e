import type { EstateView } from '../estate/estate';
import { nameKey } from '../estate/table';
import { formatWwn, parseWwn } from '../naming/wwn';
import { notParsed, parsed, type Parsed } from '../units/parsed';

/** Names of zones, zone sets and aliases (FC-GS): 1–64 characters, first a letter, then letters, digits, `$ - ^ _`. */
export function parseZoneName(text: string, what: string): Parsed<string> {
  const name = text.trim();
  if (name === '') return notParsed('name-missing', `The ${what} has no name. Write one.`);
  if (name.length > 64)
    return notParsed(
      'bad-zone-name',
      `${name.slice(0, 20)}… has ${name.length} characters; 64 is the most. Write a shorter name.`,
    );
  if (!/^[A-Za-z]/.test(name))
    return notParsed(
      'bad-zone-name',
      `${name} begins with ${name[0]}; the name of ${what === 'alias' ? 'an' : 'a'} ${what} begins with a letter.`,
      1,
    );
  const bad = name.search(/[^A-Za-z0-9$\-^_]/);
  if (bad >= 0)
    return notParsed(
      'bad-zone-name',
      `${name} has ${JSON.stringify(name[bad])} at position ${bad + 1}; switches take letters, digits, $, -, ^ and _.`,
      bad + 1,
    );
  return parsed(name);
}

/** Makes a name switches take out of any text. */
export const zoneNameFrom = (text: string): string => {
  const name = text.replace(/[^A-Za-z0-9$\-^_]/g, '_').slice(0, 64);
  return /^[A-Za-z]/.test(name) ? name : `z${name}`.slice(0, 64);
};

/**
 * Reads a member as people write it: a port name in any spelling, `domain,port`, `node` and a node name, or an alias. Gives it as it is kept:
 * `wwpn:…`, `port:1,4`, `wwnn:…`, `alias:…`.
 */
export function parseMember(text: string): Parsed<string> {
  const given = text.trim();
  if (given === '')
    return notParsed('empty', 'No member is given. Write a port name, an alias, or domain and port such as 1,4.');
  const [, kind, rest] = /^(wwpn|wwnn|node|port|alias)[: ]\s*(.+)$/i.exec(given) ?? [];
  const word = kind?.toLowerCase();
  const place = /^(\d{1,3})\s*,\s*(\d{1,4})$/.exec(word === 'port' ? rest! : word ? '' : given);
  if (place) {
    const domain = Number(place[1]);
    if (domain < 1 || domain > 239) return notParsed('bad-domain', `${given}: domains run from 1 to 239.`);
    return parsed(`port:${domain},${Number(place[2])}`);
  }
  if (word === 'port') return notParsed('bad-member', `${given} is no place. Write domain and port, such as 1,4.`);
  if (word === 'alias') return aliasMember(rest!);
  const wwn = parseWwn(word ? rest! : given);
  if (wwn.ok) return parsed(`${word === 'wwnn' || word === 'node' ? 'wwnn' : 'wwpn'}:${wwn.value}`, wwn.warnings);
  // What has a separator, or begins with a digit, was meant as a name of a port: its own fault is the better message.
  if (word || /^[0-9]|:/.test(given)) return wwn;
  return aliasMember(given);
}

function aliasMember(text: string): Parsed<string> {
  const name = parseZoneName(text, 'alias');
  return name.ok ? parsed(`alias:${name.value}`) : name;
}

/** Kind and value of a kept member. */
export const partsOf = (member: string): { kind: 'wwpn' | 'wwnn' | 'port' | 'alias'; value: string } => {
  const at = member.indexOf(':');
  return { kind: member.slice(0, at) as 'wwpn', value: member.slice(at + 1) };
};

/** A member as it is shown. */
export function memberText(member: string): string {
  const { kind, value } = partsOf(member);
  if (kind === 'wwpn') return formatWwn(value);
  if (kind === 'wwnn') return `node ${formatWwn(value)}`;
  return value;
}

export const aliasNamed = (view: EstateView, fabric: string, name: string) =>
  view
    .table('alias')
    .by('name', nameKey(fabric, name))
    .find((alias) => alias.name === name);

/** Members without aliases, each once, in order; aliases that are not there are named. Aliases are resolved once, they do not nest. */
export function resolved(
  view: EstateView,
  fabric: string,
  members: readonly string[],
): { members: string[]; undefinedAliases: string[]; emptyAliases: string[] } {
  const found = new Set<string>();
  const undefinedAliases: string[] = [];
  const emptyAliases: string[] = [];
  for (const member of members) {
    const { kind, value } = partsOf(member);
    if (kind !== 'alias') {
      found.add(member);
      continue;
    }
    const alias = aliasNamed(view, fabric, value);
    if (!alias) undefinedAliases.push(value);
    else if (alias.members.length === 0) emptyAliases.push(value);
    for (const own of alias?.members ?? []) if (partsOf(own).kind !== 'alias') found.add(own);
  }
  return { members: [...found], undefinedAliases, emptyAliases };
}

/** What one member stands for: itself, or what its alias holds. */
export const standsFor = (view: EstateView, fabric: string, member: string): readonly string[] =>
  partsOf(member).kind === 'alias' ? (aliasNamed(view, fabric, partsOf(member).value)?.members ?? []) : [member];
