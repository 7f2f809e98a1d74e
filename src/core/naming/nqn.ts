import { notParsed, parsed, type Parsed } from '../units/parsed';

export const DISCOVERY_NQN = 'nqn.2014-08.org.nvmexpress.discovery';
const UUID_FORM = /^nqn\.2014-08\.org\.nvmexpress:uuid:(.*)$/;
const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;
const MAX_OCTETS = 223;
const FORWARD_TOP_LABELS = new Set(['com', 'org', 'net', 'edu', 'gov', 'mil', 'int', 'example', 'test']);
const LABEL = /^[A-Za-z0-9\u0080-\uffff](?:[A-Za-z0-9\u0080-\uffff-]{0,61}[A-Za-z0-9\u0080-\uffff])?$/;

/**
 * Reads an NVMe Qualified Name (NVM Express Base, "NVMe Qualified Names"). It is compared byte by byte: nothing is folded, the text is given
 * back as it stands. `today` is a month, `2031-04`. The first failure wins.
 * Reasons: empty, too-long, space-inside, bad-prefix, bad-date, month-out-of-range, date-in-future, date-before-domains,
 * discovery-nqn-wrong-role, bad-uuid, reserved-authority, missing-authority, bad-authority, missing-string.
 */
export function parseNqn(text: string, role: 'host' | 'subsystem' | 'discovery', today: string): Parsed<string> {
  const nqn = text.trim();
  if (nqn === '')
    return notParsed(
      'empty',
      'No NQN is given. Write the name the host shows, such as nqn.2031-04.example.skarholt:berth-sim.',
    );
  const octets = new TextEncoder().encode(nqn).length;
  if (octets > MAX_OCTETS)
    return notParsed('too-long', `The NQN has ${octets} octets; ${MAX_OCTETS} is the most. Write a shorter one.`);
  // Nobody sees a control or format character, and names are compared byte by byte.
  const space = nqn.search(/[\s\p{Cc}\p{Cf}]/u);
  if (space >= 0)
    return notParsed(
      'space-inside',
      `${nqn} has a ${/\s/.test(nqn[space]!) ? 'blank' : 'character that nobody sees'} at position ${space + 1}. An NQN has none; take it out.`,
      space + 1,
    );
  if (!nqn.startsWith('nqn.'))
    return notParsed(
      'bad-prefix',
      `${nqn} does not begin with nqn.${/^nqn\./i.test(nqn) ? ' Only capitals differ: write it small.' : ' Write the whole name, such as nqn.2031-04.example.skarholt:berth-sim.'}`,
    );
  const date = /^nqn\.(\d{4})-(\d{2})(?=[.:]|$)/.exec(nqn);
  if (!date)
    return notParsed('bad-date', `${nqn} has no month after nqn. Write year and month, such as nqn.2031-04.`, 5);
  const [head, year, month] = date;
  if (Number(month) < 1 || Number(month) > 12)
    return notParsed('month-out-of-range', `${nqn} names month ${month}; months run from 01 to 12.`, 10);
  if (`${year}-${month}` > today)
    return notParsed(
      'date-in-future',
      `${nqn} is dated ${year}-${month}, after this month, ${today}. Write a month in which the owner held the domain.`,
      5,
    );
  if (Number(year) < 1985)
    return notParsed('date-before-domains', `${nqn} is dated ${year}; domain names are younger. Correct the year.`, 5);
  if (nqn === DISCOVERY_NQN && role !== 'discovery')
    return notParsed(
      'discovery-nqn-wrong-role',
      `${nqn} names every discovery service, not a ${role}. Write the ${role}'s own name.`,
    );
  const uuid = UUID_FORM.exec(nqn);
  if (uuid) {
    if (!UUID.test(uuid[1]!) || /^[0-]+$/.test(uuid[1]!))
      return notParsed(
        'bad-uuid',
        `${nqn}: ${uuid[1] === '' ? 'nothing' : uuid[1]} is no UUID. Write it as 8-4-4-4-12 digits.`,
      );
    return parsed(nqn, /[A-Z]/.test(nqn) ? ['upper-case'] : []);
  }
  const rest = nqn.slice(head.length);
  if (!rest.startsWith('.') || rest.length === 1)
    return notParsed(
      'missing-authority',
      `${nqn} names no owner after the month. Write the domain reversed, such as nqn.2031-04.example.skarholt.`,
    );
  const colon = rest.indexOf(':');
  const authority = colon < 0 ? rest.slice(1) : rest.slice(1, colon);
  if (
    head === 'nqn.2014-08' &&
    (authority === 'org.nvmexpress' || authority.startsWith('org.nvmexpress.')) &&
    nqn !== DISCOVERY_NQN
  )
    return notParsed(
      'reserved-authority',
      `${nqn}: that owner is reserved for names with a UUID and for discovery. Use a domain of your own.`,
    );
  const labels = authority.split('.');
  const wrong = labels.find((label) => !LABEL.test(label));
  if (wrong !== undefined)
    return notParsed(
      'bad-authority',
      `${nqn}: "${wrong}" is no part of a domain name. Correct the owner after the month.`,
    );
  if ((colon < 0 || colon === rest.length - 1) && nqn !== DISCOVERY_NQN)
    return notParsed('missing-string', `${nqn} has nothing after the owner. Write a colon and the thing's own name.`);
  const warnings: string[] = [];
  if (/[A-Z]/.test(nqn)) warnings.push('upper-case');
  if (labels.length === 1) warnings.push('authority-one-label');
  else if (FORWARD_TOP_LABELS.has(labels.at(-1)!.toLowerCase()) && !FORWARD_TOP_LABELS.has(labels[0]!.toLowerCase()))
    warnings.push('authority-not-reversed');
  return parsed(nqn, warnings);
}
