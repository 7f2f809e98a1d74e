import { hexFrom } from '../estate/random';
import type { HostInterface } from '../estate/entities';
import { notParsed, parsed, type Parsed } from '../units/parsed';

/** How the first bits of an ISID say who made it (RFC 7143 §11.12.5). */
export const isidTypes = ['IEEE company id', 'enterprise number', 'random', 'reserved'] as const;

export const isidType = (isid: string): (typeof isidTypes)[number] => isidTypes[parseInt(isid.slice(0, 2), 16) >> 6]!;

/** Reads an ISID of 6 bytes, with or without `0x` and separators. Reasons: empty, bad-isid, isid-reserved. */
export function parseIsid(text: string): Parsed<string> {
  const digits = text
    .trim()
    .toLowerCase()
    .replace(/^0x/, '')
    .replace(/[:\-\s]/g, '');
  if (digits === '') return notParsed('empty', 'No ISID is given. Write 12 hexadecimal digits.');
  if (!/^[0-9a-f]{12}$/.test(digits))
    return notParsed('bad-isid', `${text.trim()} is no ISID. Write 12 hexadecimal digits, such as 0x80a1b2c30001.`);
  if (isidType(digits) === 'reserved')
    return notParsed(
      'isid-reserved',
      `0x${digits} begins with the bits 11, which are reserved. Begin it with 00, 40 or 80.`,
    );
  return parsed(digits);
}

/** The ISID an interface begins its sessions with: its own, else a random one that hangs on it alone. */
export const isidOf = (row: Pick<HostInterface, 'id' | 'isid'>): string =>
  row.isid ?? `80${hexFrom(`isid ${row.id}`, 10)}`;

/**
 * A session is named by initiator name, ISID, target and portal group (RFC 7143 §4.4.3): one that logs in with the name of another takes its place.
 * Of sessions `[group, isid]` in the order of their logins, those that stay.
 */
export function reinstated<S extends { group: number; isid: string; from: string }>(sessions: readonly S[]): Set<S> {
  const last = new Map<string, S>();
  const out = new Set<S>();
  // Sessions of one interface to one group count up; only another interface can bear the same identity.
  const turn = new Map<string, number>();
  for (const session of sessions) {
    const at = `${session.from} ${session.group}`;
    const qualifier = turn.get(at) ?? 0;
    turn.set(at, qualifier + 1);
    const name = `${session.group} ${session.isid} ${qualifier}`;
    const before = last.get(name);
    if (before) out.add(before);
    last.set(name, session);
  }
  return out;
}
