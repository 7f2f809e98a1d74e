import { hexFrom } from '../estate/random';

/** NAA 6 identity of a volume (IEEE registered extended, SPC): `6`, 24-bit company id, 36 + 64 bits made from the seed. 32 digits. */
export const makeNaa = (companyId: string, seed: string): string => `6${companyId}${hexFrom(`naa ${seed}`, 25)}`;

/**
 * NGUID of the same volume (NVM Express): 64 bits of vendor extension, the 24-bit company id, 40 bits of extension, all from the NAA name, so
 * that both name one thing.
 */
export const nguidOf = (naa: string): string => `${naa.slice(16)}${naa.slice(1, 7)}${naa.slice(6, 16)}`;

/** EUI-64 of the same volume: the 24-bit company id and 40 bits of its own (IEEE; NVM Express puts the company id first here). */
export const euiOf = (naa: string): string => `${naa.slice(1, 7)}${naa.slice(22)}`;

/** UUID of the same volume, of the version that leaves its bits to the maker (RFC 9562, version 8). */
export function uuidOf(naa: string): string {
  const digits = hexFrom(`uuid ${naa}`, 32);
  const variant = '89ab'[parseInt(digits[16]!, 16) & 3]!;
  const all = `${digits.slice(0, 12)}8${digits.slice(13, 16)}${variant}${digits.slice(17)}`;
  return [all.slice(0, 8), all.slice(8, 12), all.slice(12, 16), all.slice(16, 20), all.slice(20)].join('-');
}

/** How a host names what it sees, by the protocol over which it sees it: SCSI hosts by NAA, NVMe hosts by NGUID, EUI-64 and UUID. */
export const identityNames = (naa: string, nvme: boolean): { label: string; value: string }[] =>
  nvme
    ? [
        { label: 'NGUID', value: nguidOf(naa) },
        { label: 'EUI-64', value: euiOf(naa) },
        { label: 'UUID', value: uuidOf(naa) },
      ]
    : [{ label: 'NAA', value: `naa.${naa}` }];

/** A name in hexadecimal, however people write it: without `naa.`, `eui.`, `nguid.`, `0x`, colons, hyphens and spaces; null where it is none. */
export function hexDigits(text: string): string | null {
  const digits = text
    .trim()
    .toLowerCase()
    .replace(/^(naa|eui|nguid|uuid|wwn|wwpn)[.:= ]+/, '')
    .replace(/^0x/, '')
    .replace(/[:\-\s.]/g, '');
  return /^[0-9a-f]{4,}$/.test(digits) ? digits : null;
}

/** NAA 5 port name: `5`, 24-bit company id, 36 bits. 16 digits. */
export const makeWwpn = (companyId: string, seed: string): string => `5${companyId}${hexFrom(`wwpn ${seed}`, 9)}`;

export const makeSerial = (seed: string): string => hexFrom(`serial ${seed}`, 10).toUpperCase();

/** `50:02:…`: how a port name is written. */
export const colonPairs = (digits: string): string => digits.replace(/..(?!$)/g, '$&:');
