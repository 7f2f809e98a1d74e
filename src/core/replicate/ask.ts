import { isMirrored } from '../copies/replica';
import { arrayOf } from '../estate/relations';
import { type Volume } from '../kinds/volume';
import type { Replication } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { byName, draftText } from '../operation/draft';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import type { Choice, Draft } from '../operation/operation';
import { subjectOf, type Refusal } from '../operation/refusal';
import { formatBytes } from '../units/bytes';
import { momentText } from '../units/date';
import { formatDuration, type Milliseconds } from '../units/duration';
import { bytesAtRisk, lagOf, pitOf } from './carry';
import { presentRoles, sidesOf, unreachedWhy } from './sides';
import { roleStep, type RoleEvent, type Roles } from './roles';

export const stateWords: Record<Replication['state'], string> = {
  defined: 'is only defined',
  copying: 'is being copied',
  protected: 'is protected',
  paused: 'is paused',
  broken: 'is broken off',
  switching: 'is being switched',
  'failed-over': 'has failed over',
};

/** `Ticketing, Nordkai to Molenhaven, is protected` */
export const replicationChoices = (
  view: EstateView,
  unfit: (row: Replication) => string | undefined = () => undefined,
): Choice[] =>
  [...view.table('replication').values()].sort(byName).map((row) => {
    const { sourceSite, targetSite } = sidesOf(view, row);
    const why = unfit(row);
    return {
      value: row.name,
      label: `${row.name}, ${sourceSite} to ${targetSite}, ${stateWords[row.state]}`,
      ...(why ? { unfit: why } : {}),
    };
  });

export const draftReplication = (view: EstateView, draft: Draft): Replication | undefined =>
  lookUp(view, 'replication', draftText(draft, 'replication'));

/** What a failover would cost now, in a sentence. */
export function riskWords(view: EstateView, row: Replication, now: Milliseconds): string {
  const { targetSite } = sidesOf(view, row);
  const pit = pitOf(row, now);
  if (pit === null || !row.image) return `Nothing is whole at ${targetSite} yet.`;
  if (isMirrored(row)) return `${targetSite} holds every write: nothing would be lost.`;
  return `${targetSite} holds it as of ${momentText(pit)}, ${formatDuration(lagOf(row, now))} behind: about ${formatBytes(bytesAtRisk(view, row, now), 'used')} would be lost.`;
}

/** What a person reads where a role cannot be changed (protect.md N). */
function refusalOf(view: EstateView, row: Replication, code: string, now: Milliseconds): Refusal {
  const { sourceSite, targetSite } = sidesOf(view, row);
  const state = `${row.name} ${stateWords[row.state]}`;
  const say = (message: string, mend: string, field?: string): Refusal => ({
    code,
    subject: subjectOf('replication', row),
    message,
    mend,
    ...(field ? { field } : {}),
  });
  const words: Record<string, () => Refusal> = {
    'replication-peer-unreachable': () =>
      say(`${targetSite} cannot be reached: ${unreachedWhy(view, row)}.`, 'Mend that first.'),
    'replication-not-active': () => say(`${state}; only what is copied can be paused.`, 'Leave it as it is.'),
    'replication-not-paused': () => say(`${state}; it needs no word to go on.`, 'Leave it as it is.'),
    'replication-not-protected': () =>
      say(
        `${state}, ${targetSite} is ${formatDuration(lagOf(row, now))} behind; a planned switch needs a healthy pair.`,
        'Wait until it is protected.',
      ),
    'replication-confirm-hosts-stopped': () =>
      say(
        `Confirm that the applications at ${sourceSite} are stopped.`,
        'Unmount there first, then confirm.',
        'stopped',
      ),
    'replication-already-failed-over': () =>
      say(`${targetSite} serves since ${momentText(row.since)}.`, 'Reverse it or undo it.'),
    'replication-busy': () => say('A switch is running.', 'Wait until it is over.'),
    'replication-target-unreachable': () =>
      say(`${targetSite} does not answer; nothing can be promoted.`, `Bring ${targetSite} up first.`),
    'replication-no-consistent-image': () =>
      say(`The first copy never finished: there is nothing usable at ${targetSite}.`, 'Wait for the first copy.'),
    'replication-source-alive-use-switch': () =>
      say(
        `${sourceSite} is alive; the planned switch loses nothing.`,
        'Switch instead, or declare it stopped.',
        'sourceStopped',
      ),
    'replication-confirm-data-loss': () =>
      say(
        `Changes since ${row.pit === null ? 'ever' : momentText(row.pit)} (${formatDuration(lagOf(row, now))}, about ${formatBytes(bytesAtRisk(view, row, now), 'used')}) are lost.`,
        `Type ${row.name} to confirm.`,
        'confirm',
      ),
    'replication-confirm-source-fenced': () =>
      say(
        `${sourceSite} cannot be asked. Confirm how it is kept off.`,
        'Say whether its hosts, its ports or the whole array are off.',
        'fence',
      ),
    'replication-not-failed-over': () => say(`${state}; there is nothing to take back.`, 'Leave it as it is.'),
    'replication-confirm-discard-old-source': () =>
      say(
        `What ${sourceSite} alone received after ${row.pit === null ? 'ever' : momentText(row.pit)} is overwritten; a safety copy is kept.`,
        `Type ${row.name} to confirm.`,
        'confirm',
      ),
    'replication-confirm-discard-recovery-site': () =>
      say(
        `What ${targetSite} wrote since ${momentText(row.since)} is dropped; a safety copy is kept.`,
        `Type ${row.name} to confirm.`,
        'confirm',
      ),
    'replication-drill-active': () => say('A drill is running.', 'End it first.'),
    'replication-confirm-remove': () =>
      say('Both data sets stay; protection ends.', `Type ${row.name} to confirm.`, 'confirm'),
  };
  return words[code]?.() ?? say(`${state}: ${code}.`, 'Leave it as it is.');
}

/** Refuses what is for replications with a source and a target; whether it did. */
export function refuseStretched(asks: Inquiry, row: Replication): boolean {
  if (row.stretch === null) return false;
  asks.refuse({
    code: 'replication-stretched',
    field: 'replication',
    subject: subjectOf('replication', row),
    message: `${row.name} is stretched: both sites serve it, and a protocol decides who goes on.`,
    mend: 'Change the stretched volume, force a site, or take a leg away: the data stays.',
    offer: nextStep(`Take a leg of ${row.name} away`, 'stretch.dissolve', { replication: row.name }),
  });
  return true;
}

/** A replication after an event, or the refusal in a person's words. */
export function askRole(
  view: EstateView,
  asks: Inquiry,
  row: Replication,
  event: RoleEvent,
  now: Milliseconds,
): Roles | undefined {
  if (refuseStretched(asks, row)) return undefined;
  const { roles, refusal } = roleStep(presentRoles(view, row), event);
  if (refusal === null) return roles;
  asks.refuse(refusalOf(view, row, refusal, now));
  return undefined;
}

/** A replication that an operation names, and what it asks in the course. */
export function askReplication(view: EstateView, name: string): { asks: Inquiry; row: Replication | undefined } {
  const asks = inquire(view);
  return { asks, row: asks.find('replication', name, 'replication') };
}

export const isConfirmed = (row: Replication, typed: string | undefined): boolean =>
  (typed ?? '').trim().toLowerCase() === row.name.toLowerCase();

/** The array that carries out what is asked of some of its volumes. */
export const arrayDevice = (view: EstateView, [volume]: readonly Volume[]) => {
  const array = arrayOf(view, volume!);
  return { kind: 'array', id: array.id, name: array.name } as const;
};
