import { z } from 'zod';
import { type Leg } from '../copies/legs';
import { changed, compacted, deleted, type Effect } from '../estate/effects';
import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, clusterOf, hostOf } from '../estate/relations';
import { makeNaa, makeSerial } from '../naming/identity';
import { pick } from '../operation/form';
import type { Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType, type PlanContext } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { resultOf, answersHosts } from '../stretch/decide';
import { otherSite, type SiteName } from '../stretch/state';
import { someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { arrayDevice, isConfirmed } from './ask';
import { mirrored } from './carry';
import { confirmField, confirmParam } from './replication-turn';
import { askSite, askStretched, draftStretched, placeChoices, stretchedChoices } from './stretch-ask';
import { legVolumes, placeOf } from './stretched';

const schema = z.object({
  replication: z.string().describe('The stretched volume or workload'),
  keep: z.string().describe('The site where it goes on'),
  confirm: confirmParam,
});

const isServing = (row: Leg['row'], site: SiteName): boolean => answersHosts(resultOf(row.stretch.pair[site]));

/** Refuses to take a leg away through which hosts still see the volume: what it shows then is another. */
function askUnmapped(view: EstateView, asks: Inquiry, row: Leg['row'], leaving: readonly Volume[]): void {
  for (const volume of leaving) {
    const [mapping] = view.table('mapping').by('volume', volume.id);
    if (!mapping) continue;
    const array = arrayOf(view, volume);
    // What a cluster was shown is taken from all its members at once.
    const cluster = mapping.cluster === null ? undefined : clusterOf(view, mapping);
    const who = cluster ?? hostOf(view, mapping);
    asks.refuse({
      code: 'stretched-leg-mapped',
      field: 'keep',
      subject: subjectOf('volume', volume),
      message: `${who.name} sees ${row.name} through ${volume.name} at ${array.name}, too; without the pair that would be another volume.`,
      mend: `Take ${volume.name} away from its hosts first.`,
      offer: nextStep(`Take ${volume.name} away from ${who.name}`, 'mapping.delete', {
        ...(cluster ? { cluster: cluster.name } : { host: who.name }),
        array: array.name,
        volumes: [volume.name],
      }),
    });
    return;
  }
}

/** The identity that hosts know goes on at the second leg: it changes places with that leg's own. */
function identityMoved(view: EstateView, first: Volume, second: Volume): Effect[] {
  return [
    changed('volume', first, { naa: second.naa, serial: second.serial }),
    changed('volume', second, { naa: first.naa, serial: first.serial }),
    ...view
      .table('hostDevice')
      .by('volume', first.id)
      .map((device) => changed('hostDevice', device, { volume: second.id })),
  ];
}

/** A leg that was silent goes on under an identity that nobody knows, so that hosts never take it for the other. */
function identityNew(view: EstateView, volume: Volume, { newId }: PlanContext): Effect[] {
  const seed = newId('volume');
  return [changed('volume', volume, { naa: makeNaa(arrayOf(view, volume).companyId, seed), serial: makeSerial(seed) })];
}

export const stretchDissolve: OperationType<z.output<typeof schema>> = {
  kind: 'stretch.dissolve',
  verb: 'Take a leg away',
  summary:
    'A stretched volume goes on at one site under its identity; the other leg stays as a volume of its own with its data.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: { replication: pick('Stretched'), keep: pick('Goes on at'), confirm: confirmField },
  },
  title: (p) => `${p.replication} goes on at ${p.keep} alone`,
  units: (p) => [p],
  plan(view, p, context) {
    const { asks, row } = askStretched(view, p.replication);
    if (!row) return refused(asks.refusals);
    const sites = { A: placeOf(view, row, 'A'), B: placeOf(view, row, 'B') };
    const keep = askSite(asks, p.keep, 'keep', sites, { kind: 'replication', name: row.name });
    if (!keep) return refused(asks.refusals);
    const other = otherSite(keep);
    const { pair } = row.stretch;
    const serves = isServing(row, keep);
    const no = (code: string, field: string, message: string, mend: string) =>
      asks.refuse({ code, field, subject: subjectOf('replication', row), message, mend });
    if (!serves && isServing(row, other))
      no(
        'stretched-keeps-silent',
        'keep',
        `${sites[other].name} serves ${row.name}, and ${sites[keep].name} does not hold what was written since.`,
        `Let it go on at ${sites[other].name}, or wait until both serve.`,
      );
    else if (!serves && pair[other].up && pair.AB)
      no(
        'stretched-keeps-silent',
        'keep',
        `Neither site serves ${row.name} now, and both see each other.`,
        'Wait until they have agreed.',
      );
    else if (!pair[keep].up)
      no('stretched-keeps-silent', 'keep', `${sites[keep].name} is off.`, `Bring ${sites[keep].name} up first.`);
    if (!row.image && keep === 'B')
      no(
        'replication-no-consistent-image',
        'keep',
        `The second leg was never whole: there is nothing usable at ${sites.B.name}.`,
        `Let it go on at ${sites.A.name}.`,
      );
    const [kept, leaving] = [legVolumes(view, row, keep), legVolumes(view, row, other)];
    // Who shows nothing any more cannot be asked; what it showed is not what goes on.
    if (asks.refusals.length === 0 && (serves || pair[other].up)) askUnmapped(view, asks, row, leaving);
    const devices = kept.flatMap((_, k) => view.table('hostDevice').by('volume', row.primaries[k]!));
    const [mounted] = serves ? [] : devices.filter(({ mountPoint }) => mountPoint !== null);
    if (asks.refusals.length === 0 && mounted)
      asks.refuse({
        code: 'in-use',
        field: 'replication',
        subject: subjectOf('hostDevice', mounted),
        message: `${hostOf(view, mounted).name} has ${row.name} mounted at ${mounted.mountPoint}, and would find another identity.`,
        mend: `Unmount ${mounted.name} at ${hostOf(view, mounted).name} first.`,
        offer: nextStep(`Unmount ${mounted.name}`, 'host-device.unmount', {
          host: hostOf(view, mounted).name,
          device: mounted.name,
        }),
      });
    if (asks.refusals.length === 0 && !isConfirmed(row, p.confirm))
      no(
        'replication-confirm-remove',
        'confirm',
        'Both data sets stay; protection ends.',
        `Type ${row.name} to confirm.`,
      );
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const firsts = legVolumes(view, row, 'A');
    const moved = serves
      ? keep === 'A'
        ? []
        : kept.flatMap((second, k) => identityMoved(view, firsts[k]!, second))
      : [
          ...(keep === 'A' ? kept.flatMap((volume) => identityNew(view, volume, context)) : []),
          ...devices.map((device) => deleted('hostDevice', device)),
        ];
    return planned({
      device: arrayDevice(view, kept),
      title: `${row.name} goes on at ${sites[keep].name} alone`,
      takes: 5 * SECOND,
      effects: compacted([
        ...mirrored(view, row, context.now, context.newId).effects,
        ...view
          .table('cycle')
          .by('replication', row.id)
          .map((cycle) => deleted('cycle', cycle)),
        deleted('replication', row),
        ...moved,
      ]),
      destroys: `that both legs of ${row.name} are one`,
      notes: [
        serves
          ? 'Its identity and its hosts stay.'
          : `${sites[keep].name} shows it under a new identity: hosts look again and mount it anew.`,
        `${someOf(leaving.map(({ name }) => name))} at ${sites[other].name} ${leaving.length === 1 ? 'stays' : 'stay'} with what ${leaving.length === 1 ? 'it holds' : 'they hold'}.`,
      ],
    });
  },
  foretell(view, draft) {
    const row = draftStretched(view, draft);
    const served = row ? (['A', 'B'] as const).filter((site) => isServing(row, site)) : [];
    return {
      fields: {
        replication: { choices: stretchedChoices(view) },
        keep: {
          choices: placeChoices(view, row),
          ...(row && served[0] ? { suggested: placeOf(view, row, served[0]).name } : {}),
          says: row
            ? served.length > 0
              ? `${served.map((site) => placeOf(view, row, site).name).join(' and ')} ${served.length === 1 ? 'serves' : 'serve'} it now.`
              : 'Nobody serves it now.'
            : '',
        },
        confirm: { says: 'Capitals and small letters are the same.' },
      },
    };
  },
};
