import { editDistance, nearMiss } from './nearness';

export type NameRole = 'initiator' | 'target' | 'host' | 'subsystem' | 'port' | 'node';
export type NameForm = 'iscsi' | 'nqn' | 'wwn';

/** A name somebody bears, normalised as it is compared. */
export interface KnownName {
  name: string;
  role: NameRole;
  owner: string;
}

/** What is the matter with a name that was given, the first that applies. */
export type Diagnosis =
  | { is: 'exact' | 'exact-after-normalisation'; known: KnownName }
  | { is: 'case-differs' | 'role-swapped' | 'date-differs'; known: KnownName; message: string }
  | { is: 'wrong-kind'; form: NameForm; message: string }
  | { is: 'near-miss'; known: KnownName; distance: number; position: number; message: string }
  | { is: 'unknown'; message: string };

export function formOf(name: string): NameForm {
  if (/^(iqn|eui|naa)\./i.test(name)) return 'iscsi';
  return /^nqn\./i.test(name) ? 'nqn' : 'wwn';
}

const formOfRole: Record<NameRole, NameForm> = {
  initiator: 'iscsi',
  target: 'iscsi',
  host: 'nqn',
  subsystem: 'nqn',
  port: 'wwn',
  node: 'wwn',
};
const formWords: Record<NameForm, string> = { iscsi: 'an iSCSI name', nqn: 'an NQN', wwn: 'a Fibre Channel name' };
const roleWords: Record<NameRole, string> = {
  initiator: 'initiator name',
  target: 'target name',
  host: 'host NQN',
  subsystem: 'subsystem NQN',
  port: 'port name',
  node: 'node name',
};

/** A Fibre Channel name with what people put before it; only digits and separators may follow. */
const PREFIXED_WWN = /^(?:0x|naa\.)(?=[0-9a-f:\-. ]+$)/i;

/** Names are compared so: iSCSI names and WWNs folded, WWNs without prefix and separators, NQNs as they are. */
export function normalised(name: string, form: NameForm = formOf(name)): string {
  if (form === 'nqn') return name;
  if (form === 'iscsi') return name.normalize('NFKC').toLowerCase();
  return name
    .trim()
    .replace(PREFIXED_WWN, '')
    .replace(/[:\-. ]/g, '')
    .toLowerCase();
}

const undated = (name: string): string => name.replace(/^(iqn|nqn)\.\d{4}-\d{2}/, '$1.');

/** How two names differ, told like a slip of the pen. */
export function slipWords(given: string, known: string): string {
  const distance = editDistance(given, known);
  if (distance > 1) return 'two letters differ';
  if (given.length === known.length) {
    let at = 0;
    while (given[at] === known[at]) at += 1;
    return given[at] === known[at + 1] && given[at + 1] === known[at] ? 'two neighbours swapped' : 'one letter differs';
  }
  return given.length > known.length ? 'one letter too many' : 'one letter is missing';
}

/**
 * Why nobody answers to a name: it is another's, of another role or kind, dated otherwise, or within two slips of a known one. Names of the
 * wanted role are searched for the nearest; the position of the first difference counts from 1.
 */
export function diagnose(given: string, role: NameRole, known: readonly KnownName[]): Diagnosis {
  const wanted = known.filter((one) => one.role === role);
  const exact = wanted.find((one) => one.name === given);
  if (exact) return { is: 'exact', known: exact };
  // `naa.5000…` is an iSCSI name, and a way to write a port's name where one is wanted.
  const form = formOfRole[role] === 'wwn' && PREFIXED_WWN.test(given.trim()) ? 'wwn' : formOf(given);
  const folded = normalised(given, form);
  const alike = wanted.find((one) => normalised(one.name) === folded);
  if (alike) return { is: 'exact-after-normalisation', known: alike };
  const otherCase = wanted.find((one) => one.name.toLowerCase() === given.toLowerCase());
  if (otherCase)
    return {
      is: 'case-differs',
      known: otherCase,
      message: `NQNs are compared byte by byte: ${given} ≠ ${otherCase.name}.`,
    };
  const swapped = known.find((one) => one.role !== role && normalised(one.name) === folded);
  if (swapped)
    return {
      is: 'role-swapped',
      known: swapped,
      message: `${given} is the ${roleWords[swapped.role]} of ${swapped.owner}, not ${role === 'initiator' || role === 'host' ? "the host's" : `a ${roleWords[role]}`}.`,
    };
  if (form !== formOfRole[role])
    return {
      is: 'wrong-kind',
      form,
      message: `${given} is ${formWords[form]}; ${formWords[formOfRole[role]]} is wanted.`,
    };
  const dated = wanted.find(
    (one) => undated(normalised(one.name)) === undated(folded) && normalised(one.name) !== folded,
  );
  if (dated)
    return { is: 'date-differs', known: dated, message: `${dated.name} (${dated.owner}) bears another month.` };
  const near = nearMiss(
    folded,
    wanted.map((one) => normalised(one.name)),
  );
  if (near) {
    const one = wanted.find((row) => normalised(row.name) === near.known)!;
    return {
      is: 'near-miss',
      known: one,
      distance: near.distance,
      position: near.position,
      message: `${one.name} (${one.owner}) is known: ${slipWords(folded, near.known)}, at position ${near.position}.`,
    };
  }
  return { is: 'unknown', message: `${given} is not known.` };
}
