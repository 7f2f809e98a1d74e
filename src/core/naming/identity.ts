import { hexFrom } from '../estate/random';

/** NAA 6 identity of a volume (IEEE registered extended, SPC): `6`, 24-bit company id, 36 + 64 bits made from the seed. 32 digits. */
export const makeNaa = (companyId: string, seed: string): string => `6${companyId}${hexFrom(`naa ${seed}`, 25)}`;

/** NAA 5 port name: `5`, 24-bit company id, 36 bits. 16 digits. */
export const makeWwpn = (companyId: string, seed: string): string => `5${companyId}${hexFrom(`wwpn ${seed}`, 9)}`;

export const makeSerial = (seed: string): string => hexFrom(`serial ${seed}`, 10).toUpperCase();

/** `50:02:…`: how a port name is written. */
export const colonPairs = (digits: string): string => digits.replace(/..(?!$)/g, '$&:');
