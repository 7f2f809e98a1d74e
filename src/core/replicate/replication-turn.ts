import { isMirrored } from '../copies/replica';
import { z } from 'zod';
import { changed, compacted, deleted } from '../estate/effects';
import type { Replication, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { hostOf } from '../estate/relations';
import { folded, pick, such } from '../operation/form';
import type { Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type Draft, type Foretold, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { subjectOf } from '../operation/refusal';
import { mountedOn } from '../protect/snapshot-restore';
import { formatBytes } from '../units/bytes';
import { someOf } from '../units/counted';
import { momentText } from '../units/date';
import { SECOND, type Milliseconds } from '../units/duration';
import {
  arrayDevice,
  askReplication,
  askRole,
  draftReplication,
  isConfirmed,
  replicationChoices,
  riskWords,
  stateWords,
} from './ask';
import { purged } from '../volume/delete';
import { applied, cutSource, mirrored, pitOf } from './carry';
import { reach, type Roles } from './roles';
import { lineRate } from './line';
import { safetyCopy } from './safety-copy';
import { presentRoles, roleFields, sidesOf } from './sides';

export const confirmParam = z.string().optional().describe('The name of the replication, typed');
export const confirmField = such('Type its name', 'to confirm');

function askUnmounted(view: EstateView, asks: Inquiry, row: Replication, volumes: readonly Volume[]): void {
  const devices = mountedOn(view, volumes);
  const [first] = devices;
  if (!first) return;
  asks.refuse({
    code: 'replication-confirm-hosts-stopped',
    field: 'stopped',
    subject: subjectOf('replication', row),
    message: `${someOf([...new Set(devices.map((device) => hostOf(view, device).name))])} still ${devices.length === 1 ? 'has' : 'have'} ${row.name} mounted.`,
    mend: `Unmount ${someOf(devices.map((device) => `${device.name} at ${hostOf(view, device).name}`))} first.`,
    offer: nextStep(`Unmount ${first.name} at ${hostOf(view, first).name}`, 'host-device.unmount', {
      host: hostOf(view, first).name,
      device: first.name,
    }),
  });
}

const fieldsOf = (
  view: EstateView,
  draft: Draft,
  now: Milliseconds,
  fit: (row: Replication) => boolean,
  more: (row: Replication) => string,
): Foretold['fields'] => {
  const row = draftReplication(view, draft);
  return {
    replication: {
      choices: replicationChoices(view, (one) => (fit(one) ? undefined : stateWords[one.state])),
      says: row ? more(row) : '',
    },
    confirm: { says: 'Capitals and small letters are the same.' },
  };
};

const switchSchema = z.object({
  replication: z.string(),
  stopped: flag.default(false).describe('The applications at the source are stopped'),
});

export const replicationSwitch: OperationType<z.output<typeof switchSchema>> = {
  kind: 'replication.switch',
  verb: 'Switch sides as planned',
  summary: 'The last changes are sent, then the other site serves and the direction turns. Nothing is lost.',
  schema: switchSchema,
  form: {
    columns: [3, 4, 7],
    fields: { replication: pick('Replication'), stopped: { label: 'Applications are stopped', control: 'switch' } },
  },
  title: (p) => `Switch ${p.replication} to its other site`,
  units: (p) => [p],
  plan(view, p, { now, newId }) {
    const { asks, row } = askReplication(view, p.replication);
    const roles = row && askRole(view, asks, row, { e: 'switch', confirmHostsStopped: p.stopped }, now);
    if (!row || !roles) return refused(asks.refusals);
    const { source, target, targetSite } = sidesOf(view, row);
    askUnmounted(view, asks, row, source);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const last = cutSource(view, row, now);
    const { effects, short } = applied(view, { ...row, carrying: last }, newId, !isMirrored(row));
    if (short > 0)
      asks.refuse({
        code: 'replication-target-full',
        field: 'replication',
        subject: subjectOf('replication', row),
        message: `The pool at ${targetSite} has no room for the last ${formatBytes(short)}.`,
        mend: 'Extend it first.',
      });
    const turned = askRole(view, asks, { ...row, ...roleFields(roles) }, { e: 'switched' }, now);
    if (asks.refusals.length > 0 || !turned) return refused(asks.refusals);
    const link = view.table('siteLink').get(row.link)!;
    const sending = (last.wire / Math.max(1, lineRate(link).bytesPerS)) * 1000;
    return planned({
      device: arrayDevice(view, target),
      title: `${targetSite} serves ${row.name} from now on`,
      takes: 5 * SECOND + Math.ceil(sending / SECOND) * SECOND,
      effects: compacted([
        ...effects,
        changed('replication', row, {
          ...roleFields(turned),
          pit: now,
          carrying: null,
          nextAt: now + row.interval,
          since: now,
          reason: '',
        }),
      ]),
      notes: [
        `The last ${formatBytes(last.changed, 'used')} are sent first.`,
        `Map ${someOf(target.map(({ name }) => name))} to hosts at ${targetSite} where that is not done.`,
      ],
    });
  },
  foretell(view, draft, { now }) {
    const { confirm: _confirm, ...fields } = fieldsOf(
      view,
      draft,
      now,
      (row) => row.state === 'protected',
      (row) => `${sidesOf(view, row).targetSite} serves then, and ${sidesOf(view, row).sourceSite} receives.`,
    );
    return { fields: { ...fields, stopped: { says: 'Nothing may be mounted at the source.' } } };
  },
};

export const fences = ['hosts-off', 'ports-closed', 'array-off'] as const;
export const fenceWords = {
  'hosts-off': 'its hosts are off',
  'ports-closed': 'its ports are closed',
  'array-off': 'the array is off',
};
const failoverSchema = z.object({
  replication: z.string(),
  confirm: confirmParam,
  sourceStopped: flag.default(false).describe('The source is alive and declared stopped all the same'),
  fence: z.enum(fences).optional().describe('How a source that cannot be asked is kept off'),
});

export const replicationFailover: OperationType<z.output<typeof failoverSchema>> = {
  kind: 'replication.failover',
  verb: 'Fail over',
  summary: 'The other site serves what it holds. What changed since its point in time is lost.',
  schema: failoverSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      replication: pick('Replication'),
      confirm: confirmField,
      fence: pick('The source is kept off'),
      sourceStopped: folded({ label: 'The source is stopped', control: 'switch' }),
    },
  },
  title: (p) => `Fail over ${p.replication}`,
  units: (p) => [p],
  plan(view, p, { now, newId }) {
    const { asks, row } = askReplication(view, p.replication);
    const roles =
      row &&
      askRole(
        view,
        asks,
        row,
        {
          e: 'failover',
          sourceStopped: p.sourceStopped,
          confirmDataLoss: isConfirmed(row, p.confirm),
          confirmSourceFenced: p.fence !== undefined,
        },
        now,
      );
    if (!row || !roles) return refused(asks.refusals);
    const { target, targetSite, sourceSite } = sidesOf(view, row);
    const pit = pitOf(row, now)!;
    const apart = !reach(roles);
    return planned({
      device: arrayDevice(view, target),
      title: `${targetSite} serves ${row.name}, as of ${momentText(pit)}`,
      takes: 30 * SECOND,
      effects: [
        ...mirrored(view, row, now, newId).effects,
        changed('replication', row, {
          ...roleFields(roles),
          pit,
          since: now,
          carrying: null,
          reason: `${sourceSite} was given up`,
          fence: apart ? (p.fence ?? '') : '',
        }),
      ],
      destroys: `changes of ${row.name} since ${momentText(pit)}`,
      notes: [
        riskWords(view, row, now),
        ...(row.mode === 'sync' && row.order === 'free'
          ? ['Each volume went by itself: what comes back is consistent volume by volume only.']
          : []),
        ...(apart
          ? [
              `${sourceSite} is kept off: ${p.fence ? fenceWords[p.fence] : ''}. When it comes back it is closed to hosts.`,
            ]
          : []),
      ],
    });
  },
  foretell(view, draft, { now }) {
    const fields = fieldsOf(
      view,
      draft,
      now,
      (row) => row.image && row.state !== 'failed-over',
      (row) => riskWords(view, row, now),
    );
    const row = draftReplication(view, draft);
    return {
      fields: {
        ...fields,
        fence: {
          choices: [{ value: '', label: 'Not said' }, ...fences.map((value) => ({ value, label: fenceWords[value] }))],
          says:
            row && reach(presentRoles(view, row))
              ? 'It answers: it is closed to hosts by itself.'
              : 'It cannot be asked: both sides must never serve.',
        },
        sourceStopped: { says: 'Only where the planned switch does not serve.' },
      },
    };
  },
};

const backSchema = z.object({ replication: z.string(), confirm: confirmParam });

/** Reversing and undoing a failover: what would be overwritten is copied first, and all that differs is sent. */
const wayBack = (
  event: 'reverse' | 'undo',
  words: Pick<OperationType, 'kind' | 'verb' | 'summary'>,
): OperationType<z.output<typeof backSchema>> => ({
  ...words,
  schema: backSchema,
  form: { columns: [3, 4, 7], fields: { replication: pick('Replication'), confirm: confirmField } },
  title: (p) => `${event === 'reverse' ? 'Reverse' : 'Undo the failover of'} ${p.replication}`,
  units: (p) => [p],
  plan(view, p, { now, newId }) {
    const { asks, row } = askReplication(view, p.replication);
    const roles = row && askRole(view, asks, row, { e: event, confirmDiscard: isConfirmed(row, p.confirm) }, now);
    if (!row || !roles) return refused(asks.refusals);
    const { source, target, sourceSite, targetSite } = sidesOf(view, row);
    const overwritten = event === 'reverse' ? source : target;
    const place = event === 'reverse' ? sourceSite : targetSite;
    const serving = event === 'reverse' ? targetSite : sourceSite;
    askUnmounted(view, asks, row, overwritten);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const overlay = new Overlay(view);
    const copied = safetyCopy(overlay, overwritten, row, now, newId);
    return planned({
      device: arrayDevice(view, overwritten),
      title: `${serving} serves ${row.name}; ${place} is brought up to it`,
      takes: 10 * SECOND,
      effects: [
        ...copied,
        changed('replication', row, {
          ...roleFields(roles),
          since: now,
          carrying: null,
          compare: 'union',
          nextAt: now,
          reason: '',
          fence: '',
        }),
      ],
      notes: [
        `What ${place} holds is copied first, and can be gone back to.`,
        `What either side changed since ${momentText(row.pit!)} is sent.`,
      ],
    });
  },
  foretell(view, draft, { now }) {
    return {
      fields: fieldsOf(
        view,
        draft,
        now,
        (row) => row.state === 'failed-over',
        (row) => {
          const { sourceSite, targetSite } = sidesOf(view, row);
          return event === 'reverse'
            ? `${targetSite} goes on serving, and ${sourceSite} receives from it.`
            : `${sourceSite} serves again; what ${targetSite} wrote since is dropped.`;
        },
      ),
    };
  },
});

export const replicationReverse: OperationType<z.output<typeof backSchema>> = wayBack('reverse', {
  kind: 'replication.reverse',
  verb: 'Reverse a replication',
  summary: 'After a failover the site that serves becomes the source, and the old one receives.',
});

export const replicationUndo: OperationType<z.output<typeof backSchema>> = wayBack('undo', {
  kind: 'replication.undo',
  verb: 'Undo a failover',
  summary: 'The old source serves again; what the other site wrote meanwhile is dropped.',
});

const removeSchema = z.object({ replication: z.string(), confirm: confirmParam });

export const replicationRemove: OperationType<z.output<typeof removeSchema>> = {
  kind: 'replication.remove',
  verb: 'Remove a replication',
  summary: 'Both data sets and their copies stay; nothing is sent any more.',
  schema: removeSchema,
  form: { columns: [3, 4, 7], fields: { replication: pick('Replication'), confirm: confirmField } },
  title: (p) => `Remove replication ${p.replication}`,
  units: (p) => [p],
  plan(view, p, { now, newId }) {
    const { asks, row } = askReplication(view, p.replication);
    const roles: Roles | undefined =
      row && askRole(view, asks, row, { e: 'remove', confirmRemove: isConfirmed(row, p.confirm) }, now);
    if (!row || !roles) return refused(asks.refusals);
    const { target, targetSite } = sidesOf(view, row);
    return planned({
      device: arrayDevice(view, target),
      title: `Remove replication ${row.name}`,
      takes: 2 * SECOND,
      effects: [
        ...view
          .table('cycle')
          .by('replication', row.id)
          .map((cycle) => deleted('cycle', cycle)),
        ...mirrored(view, row, now, newId).effects,
        deleted('replication', row),
        ...row.logs.flatMap((id) => purged(view, view.table('volume').get(id)!, newId)),
      ],
      destroys: `the history of ${row.name}`,
      notes: [
        `${someOf(target.map(({ name }) => name))} at ${targetSite} ${target.length === 1 ? 'stays' : 'stay'} as ${target.length === 1 ? 'it is' : 'they are'}, open to hosts.`,
      ],
    });
  },
  foretell(view, draft, { now }) {
    return {
      fields: fieldsOf(
        view,
        draft,
        now,
        () => true,
        (row) => `${stateWords[row.state][0]!.toUpperCase()}${stateWords[row.state].slice(1)}; both sides stay.`,
      ),
    };
  },
};
