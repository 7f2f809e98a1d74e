import { notParsed, parsed, type Parsed } from '../units/parsed';

export type NvmeIdentityKind = 'EUI-64' | 'NGUID' | 'UUID';

/** An identity of a namespace (NVM Express, Namespace Identification Descriptor types 1, 2 and 3). */
export interface NvmeIdentity {
  kind: NvmeIdentityKind;
  /** Lower case, without separators: 16 digits of an EUI-64, else 32. */
  digits: string;
  /** As it is written: a UUID in five groups, the others bare. */
  text: string;
  /** Of its maker; null for a UUID, which names none. */
  companyId: string | null;
}

const lengths: Record<NvmeIdentityKind, number> = { 'EUI-64': 16, NGUID: 32, UUID: 32 };
const UUID_GROUPS = [8, 4, 4, 4, 12];
const uuidText = (digits: string): string =>
  [digits.slice(0, 8), digits.slice(8, 12), digits.slice(12, 16), digits.slice(16, 20), digits.slice(20)].join('-');

/** Which kind a prefix names; `eui.` stands before both, by how many digits follow. */
function named(prefix: string, digits: number): NvmeIdentityKind | null {
  if (prefix.startsWith('uuid')) return 'UUID';
  if (prefix.startsWith('nguid')) return 'NGUID';
  if (prefix.startsWith('eui')) return digits > 16 ? 'NGUID' : 'EUI-64';
  return null;
}

/**
 * Reads an EUI-64, NGUID or UUID however it is written: bare, in groups of two or four with one kind of separator, behind `0x`, `eui.`,
 * `nguid.`, `uuid.` or `urn:uuid:`, a UUID in its five groups and in braces (RFC 9562). Without a prefix 16 digits are an EUI-64, five groups a
 * UUID and other 32 digits an NGUID, unless `wanted` says what they are. The first failure wins.
 * Reasons: empty, bad-char, bad-grouping, wrong-length, not-reported (all zeros), another-kind.
 */
export function parseNvmeIdentity(text: string, wanted?: NvmeIdentityKind): Parsed<NvmeIdentity> {
  const trimmed = text.trim();
  if (trimmed === '') return notParsed('empty', 'No identity is given. Write the 32 digits of the NGUID.');
  const prefix = /^(?:urn:uuid:|(?:uuid|nguid|eui-?64|eui)[.:= ]\s*|0x)/i.exec(trimmed)?.[0].toLowerCase() ?? '';
  let rest = trimmed.slice(prefix.length);
  const braced = /^\{(.*)\}$/.exec(rest);
  if (braced) rest = braced[1]!;
  const offset = prefix.length + (braced ? 1 : 0);
  const bad = rest.search(/[^0-9a-f:\-. ]/i);
  if (bad >= 0)
    return notParsed(
      'bad-char',
      `${trimmed} has ${rest[bad]} at position ${offset + bad + 1}, which is no hexadecimal digit. Write 0 to 9 and a to f.`,
      offset + bad + 1,
    );
  const separators = [...new Set(rest.match(/[:\-. ]/g) ?? [])];
  const groups = separators.length === 1 ? rest.split(separators[0]!).map((group) => group.length) : [];
  const fiveGroups = separators[0] === '-' && groups.join() === UUID_GROUPS.join();
  const even = groups.length > 1 && [2, 4, 8].includes(groups[0]!) && groups.every((length) => length === groups[0]);
  if (separators.length > 0 && !fiveGroups && !even)
    return notParsed(
      'bad-grouping',
      `${trimmed} is not in equal groups, nor in the five of a UUID. Write it without separators.`,
    );
  const digits = rest.replace(/[:\-. ]/g, '').toLowerCase();
  const said = named(prefix, digits.length) ?? (fiveGroups || braced ? 'UUID' : null);
  if (said && wanted && said !== wanted)
    return notParsed('another-kind', `${trimmed} is written as a ${said}; a ${wanted} is asked for.`);
  const kind = said ?? wanted ?? (digits.length <= 16 ? 'EUI-64' : 'NGUID');
  if (digits.length !== lengths[kind])
    return notParsed(
      'wrong-length',
      `${trimmed} has ${digits.length} ${digits.length === 1 ? 'digit' : 'digits'}; ${kind === 'EUI-64' ? 'an EUI-64' : `a ${kind}`} has ${lengths[kind]}. ${digits.length < lengths[kind] ? 'Write the whole of it.' : 'Take out what is too much.'}`,
    );
  if (/^0+$/.test(digits))
    return notParsed(
      'not-reported',
      `${trimmed} is all zeros: the array reports no ${kind} here. Use another identity.`,
    );
  // The maker's number comes first in an EUI-64, and after 8 bytes of extension in an NGUID.
  const from = kind === 'EUI-64' ? 0 : 16;
  const companyId = kind === 'UUID' ? null : digits.slice(from, from + 6);
  return parsed({ kind, digits, text: kind === 'UUID' ? uuidText(digits) : digits, companyId });
}
