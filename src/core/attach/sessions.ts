import type { Kind } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { fabricMeetings } from './session/over-fabric';
import { ipMeetings } from './session/over-ip';
import { iscsiMeetings } from './session/over-iscsi';
import { nvmeMeetings } from './session/over-nvme';
import { Gathered, type Sessions } from './session/session';
import { surroundings } from './session/surroundings';

export { reachWords } from './session/over-ip';
export { leastWanted, type MissingReason, type MissingSession, type Session, type Sessions } from './session/session';

/** Kinds of rows that decide whether ports meet, and which path is the best. */
export const pathKinds: ReadonlySet<Kind> = new Set<Kind>([
  'access',
  'activeZone',
  'array',
  'authServer',
  'controller',
  'domainSet',
  'discoveryDomain',
  'fabric',
  'host',
  'initiator',
  'interface',
  'isl',
  'login',
  'nameServer',
  'network',
  'port',
  'siteLink',
  'subsystem',
  'switch',
  'target',
]);

const books = new WeakMap<EstateView, { stamp: number; book: (host: string, array: string) => Sessions }>();

/**
 * {@link openBook}, kept as long as nothing of an estate has moved that decides about sessions. A preview that leaves all that alone reads the
 * book of the estate under it.
 */
export function sessionBook(view: EstateView): (host: string, array: string) => Sessions {
  // Where a target takes so many sessions and no more, it counts who has something to log in for.
  const limited = [...view.table('target').values()].some((target) => target.sessionLimit !== null);
  const deciding: readonly Kind[] = limited ? [...pathKinds, 'mapping'] : [...pathKinds];
  let root = view;
  while (root.below && !deciding.some((kind) => root.revision(kind) > 0)) root = root.below;
  let stamp = 0;
  for (const kind of deciding) stamp += root.revision(kind);
  const known = books.get(root);
  if (known?.stamp === stamp) return known.book;
  const answers = new Map<string, Sessions>();
  const ask = openBook(root);
  const book = (host: string, array: string): Sessions => {
    const key = `${host} ${array}`;
    let found = answers.get(key);
    if (!found) answers.set(key, (found = ask(host, array)));
    return found;
  };
  books.set(root, { stamp, book });
  return book;
}

/**
 * How a host meets an array over each transport: every pair of ports that is logged in, and every pair that should be and is not, with the
 * first reason.
 */
function openBook(view: EstateView): (host: string, array: string) => Sessions {
  const around = surroundings(view);
  const overIp = ipMeetings(around);
  const transports = [fabricMeetings(around), iscsiMeetings(around, overIp), nvmeMeetings(around, overIp)];
  return (host, array) => {
    const result = new Gathered();
    for (const meet of transports) meet(host, array, result);
    return result;
  };
}
