import { quotaUsed } from '../copies/quota';
import type { Partner } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { counterpartOf, skewBetween, standingOf } from '../replicate/partners';
import { dateText } from '../units/date';
import { DAY } from '../units/duration';
import { offer, type Check, type CheckContext, type Found, type Severity } from './finding';

const SOON = 30 * DAY;
const SKEW = 30;

/** A check of what each array knows of each other one. */
const each = (
  id: string,
  severity: Severity,
  title: string,
  look: (view: EstateView, row: Partner, context: CheckContext) => Omit<Found, 'subject'> | null,
): Check => ({
  id,
  severity,
  title,
  *find(view, context) {
    for (const row of view.table('partner').values()) {
      const found = look(view, row, context);
      yield (
        found && {
          subject: { kind: 'partner', id: row.id, name: `${arrayOf(view, row).name} and ${row.name}` },
          ...found,
        }
      );
    }
  },
});

const both = (view: EstateView, row: Partner) => ({ array: arrayOf(view, row).name, peer: row.name });
/** Told of both sides, said once: at the one that comes first. */
const isFirst = (view: EstateView, row: Partner): boolean => {
  const other = counterpartOf(view, row);
  return !other || row.id < other.id;
};

export const partnerChecks: Check[] = [
  each('peer-failing', 'error', 'Partners that do not find each other as they expect', (view, row) => {
    const { misfit } = standingOf(view, row);
    if (!misfit || !isFirst(view, row)) return null;
    const { array, peer } = both(view, row);
    return {
      says: `${array} and ${peer} do not copy to each other. ${misfit.at} finds: ${misfit.message}`,
      advice: 'Mend what it finds: address, port, clock or secret.',
      mend: offer('Change what it knows', 'partner.configure', {
        array: misfit.at,
        peer: misfit.at === array ? peer : array,
      }),
    };
  }),
  each('peer-waiting', 'note', 'Introductions that the other side has not answered', (view, row, { now }) => {
    if (standingOf(view, row).state !== 'offered') return null;
    const { array, peer } = both(view, row);
    return {
      says: `${peer} was not told of ${array}${now - row.since > DAY ? `, and the offer of ${dateText(row.since)} is over` : ''}.`,
      advice: 'Introduce it from there, or forget it here.',
      mend: offer(`Introduce ${array} to ${peer}`, 'partner.introduce', { array: peer, peer: array }, 'addresses'),
    };
  }),
  each('peer-key-expiry', 'warning', 'Secrets between partners that end soon', (view, row, { now }) => {
    if (row.secretUntil === null || row.secretUntil - now >= SOON) return null;
    const { array, peer } = both(view, row);
    return {
      says: `The secret that ${array} shows ${peer} ${row.ended ? 'ended' : 'ends'} on ${dateText(row.secretUntil - DAY)}.`,
      advice: 'Renew it: the old one vouches for it, and nothing stops.',
      mend: row.ended
        ? offer('Let it hold longer', 'partner.configure', { array, peer }, 'secretUntil')
        : offer('Renew it', 'partner.renew', { array, peer }, 'shownSecret'),
    };
  }),
  each('peer-clock-skew', 'warning', 'Partners whose clocks differ', (view, row) => {
    const [self, peer] = [arrayOf(view, row), view.table('array').get(row.peer)!];
    const skew = Math.abs(skewBetween(self, peer));
    if (skew <= SKEW || !isFirst(view, row)) return null;
    const off = [self, peer].find((one) => one.clockOff !== 0)!;
    return {
      says: `The clocks of ${self.name} and ${peer.name} differ by ${Math.round(skew)} s.`,
      advice: 'Mend the time source.',
      mend: offer(`Set the clock of ${off.name}`, 'array.set-clock', { array: off.name }),
    };
  }),
  each('peer-quota-expiring', 'warning', 'Quotas of partners that end soon', (view, row, { now }) => {
    if (row.quotaUntil === null || row.quotaUntil - now >= SOON || quotaUsed(view, row).volumes === 0) return null;
    const { array, peer } = both(view, row);
    return {
      says: `What ${peer} may use of ${array} ends on ${dateText(row.quotaUntil - DAY)}; what stands there stays.`,
      advice: 'Let it go on longer.',
      mend: offer('Let it go on longer', 'partner.configure', { array, peer }, 'quotaUntil'),
    };
  }),
];
