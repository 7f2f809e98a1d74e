import type { ArrayRow } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { changed } from '../estate/effects';
import { parseAddress } from '../network/address';
import { splitPortal } from '../network/portal';
import type { Inquiry } from '../operation/inquiry';
import { subjectOf } from '../operation/refusal';
import { DISCOVERY_PORT } from './connect';
import { arrayAt, referralsOf, servicesOf } from './discover';
import { REFERRAL_DEPTH, serviceText, walkDiscovery, type DiscoveryService } from './referrals';

type Referral = ArrayRow['referrals'][number];

export const referralText = ({ ip, service }: Referral): string =>
  service === DISCOVERY_PORT ? ip : serviceText({ address: ip, service });

/** Reads addresses of discovery services; what is none, the array's own and what stands there twice is refused. */
export function readReferrals(view: EstateView, asks: Inquiry, array: ArrayRow, lines: readonly string[]): Referral[] {
  const read: Referral[] = [];
  const refuse = (code: string, message: string, mend: string) =>
    asks.refuse({ code, field: 'referrals', subject: subjectOf('array', array), message, mend });
  for (const line of lines) {
    const { ip: text, tcp } = splitPortal(line);
    const parsed = parseAddress(text, true);
    const service = tcp ?? DISCOVERY_PORT;
    if (!parsed.ok || !(service >= 1 && service <= 65_535)) {
      refuse(
        'referral-unreadable',
        `${line} is no address.`,
        'Write an address, with or without a TCP port behind it.',
      );
      continue;
    }
    const { ip } = parsed.value;
    if (arrayAt(view, { address: ip, service })?.id === array.id)
      refuse('referral-itself', `${ip} is an address of ${array.name} itself.`, 'Name the service of another array.');
    else if (read.some((one) => one.ip === ip && one.service === service))
      refuse('referral-twice', `${ip} is named twice.`, 'Leave one of them out.');
    else read.push({ ip, service });
  }
  return read;
}

/** A referral that hosts cannot follow to an end, and why. */
export interface BadReferral {
  referral: Referral;
  says: string;
}

/** Referrals of an array that lead nowhere, in a circle or too deep, whoever follows them. */
export function badReferrals(view: EstateView, array: ArrayRow): BadReferral[] {
  if (array.referrals.length === 0) return [];
  const overlay = new Overlay(view);
  const known = view.table('array').get(array.id);
  if (known) overlay.apply([changed('array', known, array)]);
  const nameAt = (service: DiscoveryService): string => arrayAt(overlay, service)?.name ?? serviceText(service);
  /** One service stands for all addresses of its array. */
  const page = (service: DiscoveryService) => {
    const at = arrayAt(overlay, service);
    return at
      ? { generation: 0, entries: [], referrals: referralsOf(at).map((to) => servicesOfArrayAt(overlay, to)) }
      : null;
  };
  return array.referrals.flatMap((referral) => {
    const to = servicesOfArrayAt(overlay, { address: referral.ip, service: referral.service });
    const walk = walkDiscovery([to], page, REFERRAL_DEPTH - 1);
    if (walk.silent.includes(to))
      return { referral, says: `${array.name} refers to ${serviceText(to)}, where nothing answers.` };
    if (walk.asked.some((one) => arrayAt(overlay, one.at)?.id === array.id))
      return { referral, says: `${array.name} refers to ${nameAt(to)}, which leads back to it.` };
    const [deep] = walk.tooDeep;
    return deep
      ? {
          referral,
          says: `${array.name} refers to ${nameAt(to)}, and ${nameAt(deep.to)} behind it lies too deep to be asked.`,
        }
      : [];
  });
}

/** The first address of the array that answers there; what is no array stands for itself. */
function servicesOfArrayAt(view: EstateView, service: DiscoveryService): DiscoveryService {
  const array = arrayAt(view, service);
  return (array && servicesOf(view, array)[0]) ?? service;
}
