import { md5, sha1 } from '@noble/hashes/legacy.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { notParsed, parsed, type Parsed } from '../units/parsed';

/** Algorithms a CHAP_A list may name (RFC 1994, RFC 7143 §12.1.3): 5 MD5, 6 SHA-1, 7 SHA-256. */
export const chapAlgorithms = { 5: md5, 6: sha1, 7: sha256 } as const;
export type ChapAlgorithm = keyof typeof chapAlgorithms;
export const ALGORITHM_WORDS: Record<ChapAlgorithm, string> = { 5: 'MD5', 6: 'SHA-1', 7: 'SHA-256' };

export const LEAST_OCTETS = 12;
const MOST_OCTETS = 255;

/** A secret's octets: the UTF-8 of the text, or the bytes where it is typed as `0x…`. */
export function secretOctets(text: string): Uint8Array | null {
  const hex = /^0x(.*)$/i.exec(text)?.[1];
  if (hex === undefined) return new TextEncoder().encode(text);
  if (hex.length % 2 !== 0 || !/^[0-9a-f]*$/i.test(hex)) return null;
  return Uint8Array.from({ length: hex.length / 2 }, (_, k) => parseInt(hex.slice(2 * k, 2 * k + 2), 16));
}

/** Whether a secret may be used: at least 96 bits (RFC 7143, security clause). Reasons: secret-bad-hex, secret-too-short, secret-too-long. */
export function checkSecret(text: string): Parsed<Uint8Array> {
  const octets = secretOctets(text);
  if (!octets)
    return notParsed('secret-bad-hex', 'After 0x a secret takes pairs of the digits 0-9 and a-f. Correct it.');
  if (octets.length < LEAST_OCTETS)
    return notParsed(
      'secret-too-short',
      `The secret has ${octets.length} octets; ${LEAST_OCTETS} are needed. Choose a longer one.`,
    );
  if (octets.length > MOST_OCTETS)
    return notParsed(
      'secret-too-long',
      `The secret has ${octets.length} octets; ${MOST_OCTETS} is the most. Choose a shorter one.`,
    );
  return parsed(octets);
}

/** response = H(identifier ‖ secret ‖ challenge) (RFC 1994 §4.1). */
export function chapResponse(
  algorithm: ChapAlgorithm,
  identifier: number,
  secret: Uint8Array,
  challenge: Uint8Array,
): Uint8Array {
  const message = new Uint8Array(1 + secret.length + challenge.length);
  message[0] = identifier & 0xff;
  message.set(secret, 1);
  message.set(challenge, 1 + secret.length);
  return chapAlgorithms[algorithm](message);
}

export type ChapFailure =
  | 'algorithm-none-common'
  | 'unknown-chap-name'
  | 'response-length'
  | 'challenge-reflected'
  | 'response-reflected'
  | 'response-mismatch';

/** One side that proves itself, and the other that judges. */
export interface ChapSide {
  algorithms: readonly ChapAlgorithm[];
  /** Null where it has none. */
  name: string;
  secret: Uint8Array | null;
}
export interface ChapJudge {
  algorithms: readonly ChapAlgorithm[];
  /** The secret on record for a name, or null. */
  secretOf(name: string): Uint8Array | null;
  /** What the judge proves itself with: whoever answers by that has only sent its own answer back. Null where it has none. */
  own?: Uint8Array | null;
}

export interface ChapExchange {
  algorithm: ChapAlgorithm;
  identifier: number;
  challenge: Uint8Array;
  response: Uint8Array;
}
export type ChapOutcome =
  { ok: true; exchange: ChapExchange } | { ok: false; reason: ChapFailure; exchange: ChapExchange | null };

const equal = (a: Uint8Array, b: Uint8Array): boolean => a.length === b.length && a.every((octet, k) => octet === b[k]);

/** The first algorithm of the prover's list that the judge supports (list negotiation, RFC 7143 §6.2). */
export const chosenAlgorithm = (
  offered: readonly ChapAlgorithm[],
  supported: readonly ChapAlgorithm[],
): ChapAlgorithm | null => offered.find((one) => supported.includes(one)) ?? null;

/**
 * One way of CHAP: the judge challenges, the prover answers, the judge compares. `mine` is an exchange of the other direction within the same
 * login, which must not be reflected. Order of reasons: algorithm, name, length, reflected, mismatch.
 */
export function proveBy(
  prover: ChapSide,
  judge: ChapJudge,
  identifier: number,
  challenge: Uint8Array,
  mine?: ChapExchange,
): ChapOutcome {
  const algorithm = chosenAlgorithm(prover.algorithms, judge.algorithms);
  if (algorithm === null) return { ok: false, reason: 'algorithm-none-common', exchange: null };
  const exchange = {
    algorithm,
    identifier,
    challenge,
    response: chapResponse(algorithm, identifier, prover.secret ?? new Uint8Array(), challenge),
  };
  return judged(exchange, prover.name, judge, mine);
}

/** Judges an answer as it came over the wire. */
export function judged(exchange: ChapExchange, name: string, judge: ChapJudge, mine?: ChapExchange): ChapOutcome {
  const no = (reason: ChapFailure): ChapOutcome => ({ ok: false, reason, exchange });
  const secret = judge.secretOf(name);
  if (secret === null) return no('unknown-chap-name');
  const expected = chapResponse(exchange.algorithm, exchange.identifier, secret, exchange.challenge);
  if (exchange.response.length !== expected.length) return no('response-length');
  if (mine && equal(mine.challenge, exchange.challenge)) return no('challenge-reflected');
  if (mine && equal(mine.response, exchange.response)) return no('response-reflected');
  if (
    judge.own &&
    equal(chapResponse(exchange.algorithm, exchange.identifier, judge.own, exchange.challenge), exchange.response)
  )
    return no('response-reflected');
  return equal(expected, exchange.response) ? { ok: true, exchange } : no('response-mismatch');
}

export const chapWords: Record<ChapFailure, string> = {
  'algorithm-none-common': 'the two sides share no algorithm',
  'unknown-chap-name': 'the CHAP name is not known',
  'response-length': 'the answer has another length than its algorithm gives',
  'challenge-reflected': 'the challenge was sent back as it came',
  'response-reflected': 'the answer was the other side’s own',
  'response-mismatch': 'the secret differs',
};
