import { z } from 'zod';
import { imageOf } from '../copies/cut';
import { type Leg } from '../copies/legs';
import { changed, compacted } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { draftText } from '../operation/draft';
import { pick } from '../operation/form';
import type { Inquiry } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { foundByHosts } from '../protect/back';
import { forced, resultOf, whyNotForced } from '../stretch/decide';
import { otherSite, type SiteName } from '../stretch/state';
import { formatBytes } from '../units/bytes';
import { momentText } from '../units/date';
import { SECOND, type Milliseconds } from '../units/duration';
import { arrayDevice, isConfirmed } from './ask';
import { bytesAtRisk, pitOf } from './carry';
import { confirmField, confirmParam, fences, fenceWords } from './replication-turn';
import { askSite, askStretched, draftStretched, placeChoices, stretchedChoices } from './stretch-ask';
import { forcedFields, legVolumes, placeNames, placeOf } from './stretched';

const schema = z.object({
  replication: z.string().describe('The stretched volume or workload'),
  site: z.string().describe('The site that is to serve'),
  off: z.enum(fences).optional().describe('How the other site is known to be off'),
  confirm: confirmParam,
});

const mends: Readonly<Record<string, { field: string; mend: (site: string, other: string) => string }>> = {
  'stretched-force-site-down': { field: 'site', mend: (site) => `Bring ${site} up first.` },
  'stretched-force-peer-reachable': { field: 'replication', mend: () => 'Let them agree by themselves.' },
  'stretched-already-serving': { field: 'site', mend: () => 'Leave it as it is.' },
  'stretched-force-needs-peer-off': { field: 'off', mend: (_, other) => `Say how ${other} is kept off.` },
  'stretched-force-needs-witness': {
    field: 'replication',
    mend: () => 'Bring the witness back, or take the lost leg away: the other is offered under its own identity.',
  },
};

/** Refuses where a person may not force a site (protect.md L, T14), in the words of section N with the names of places. */
function askForced(view: EstateView, asks: Inquiry, row: Leg['row'], site: SiteName, off: boolean): void {
  const why = whyNotForced(row.stretch.pair, site, off);
  const names = placeNames(view, row);
  const peer = otherSite(site);
  // It is said to be off; hosts that still work there tell otherwise.
  if (!why && resultOf(row.stretch.pair[peer]) === 'SOLO')
    asks.refuse({
      code: 'stretched-force-peer-serves',
      field: 'off',
      subject: subjectOf('replication', row),
      message: `${names[peer]} still serves ${row.name} alone: two versions of the data would arise.`,
      mend: `Switch off its array first, or mend the link between ${names.A} and ${names.B}.`,
    });
  if (!why) return;
  const { field, mend } = mends[why.reason] ?? { field: 'site', mend: () => 'Leave it as it is.' };
  const other = otherSite(site);
  asks.refuse({
    code: why.reason,
    field,
    subject: subjectOf('replication', row),
    message: why.message
      .replace(/\bthe witness\b/i, names.W)
      .replace(/\b([AB])\b(?=[ ,])/g, (_, one: SiteName) => names[one]),
    mend: mend(names[site], names[other]),
  });
}

/** What forcing a site gives up, in a sentence. */
function lostWords(view: EstateView, row: Leg['row'], site: SiteName, now: Milliseconds): string {
  const names = placeNames(view, row);
  const leads = (row.source === 'P') === (site === 'A');
  const pit = pitOf(row, now);
  if (leads || pit === null) return `${names[site]} holds all that was acknowledged.`;
  const bytes = bytesAtRisk(view, row, now);
  return `${names[site]} holds it as of ${momentText(pit)}; what ${names[otherSite(site)]} acknowledged alone since then, about ${formatBytes(Math.round(bytes), 'used')}, is left out.`;
}

export const stretchForce: OperationType<z.output<typeof schema>> = {
  kind: 'stretch.force',
  verb: 'Force a site to serve',
  summary:
    'A person says that the other site is off, and this one goes on alone. Only where nothing else brings it back: what the other had alone is skipped.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      replication: pick('Stretched'),
      site: pick('Site that serves'),
      off: pick('The other is kept off'),
      confirm: confirmField,
    },
  },
  title: (p) => `Force ${p.site} to serve ${p.replication}`,
  units: (p) => [p],
  plan(view, p, { now }) {
    const { asks, row } = askStretched(view, p.replication);
    if (!row) return refused(asks.refusals);
    const sites = { A: placeOf(view, row, 'A'), B: placeOf(view, row, 'B') };
    const site = askSite(asks, p.site, 'site', sites, { kind: 'replication', name: row.name });
    if (!site) return refused(asks.refusals);
    askForced(view, asks, row, site, p.off !== undefined);
    if (asks.refusals.length === 0 && !row.image && site === 'B')
      asks.refuse({
        code: 'replication-no-consistent-image',
        field: 'site',
        subject: subjectOf('replication', row),
        message: `The second leg was never whole: there is nothing usable at ${sites.B.name}.`,
        mend: `Bring ${sites.A.name} back.`,
      });
    if (asks.refusals.length === 0 && !isConfirmed(row, p.confirm))
      asks.refuse({
        code: 'replication-confirm-data-loss',
        field: 'confirm',
        subject: subjectOf('replication', row),
        message: lostWords(view, row, site, now),
        mend: `Type ${row.name} to confirm.`,
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const after = forced(row.stretch.pair, site);
    const fields = forcedFields(view, row, after, now);
    const leads = fields.source === row.source;
    const serving = legVolumes(view, row, site);
    return planned({
      device: arrayDevice(view, serving),
      title: `${sites[site].name} serves ${row.name} alone`,
      takes: 10 * SECOND,
      effects: compacted([
        changed('replication', row, { ...fields, fence: p.off ?? '' }),
        // Hosts find the file system as this leg holds it.
        ...(leads ? [] : serving.flatMap((volume, k) => foundByHosts(view, row.primaries[k]!, imageOf(view, volume)))),
      ]),
      ...(leads ? {} : { destroys: `what ${sites[otherSite(site)].name} alone acknowledged of ${row.name}` }),
      notes: [
        lostWords(view, row, site, now),
        `${sites[otherSite(site)].name} is kept off: ${p.off ? fenceWords[p.off] : ''}. When it comes back it is refreshed; what it holds is copied first.`,
      ],
    });
  },
  foretell(view, draft, { now }) {
    const row = draftStretched(view, draft);
    const text = draftText(draft, 'site').toLowerCase();
    const site = row && (['A', 'B'] as const).find((one) => placeOf(view, row, one).name.toLowerCase() === text);
    return {
      fields: {
        replication: { choices: stretchedChoices(view) },
        site: { choices: placeChoices(view, row), says: row && site ? lostWords(view, row, site, now) : '' },
        off: {
          choices: [{ value: '', label: 'Not said' }, ...fences.map((value) => ({ value, label: fenceWords[value] }))],
          says: 'If it still runs, two versions of the data arise.',
        },
        confirm: { says: 'Capitals and small letters are the same.' },
      },
    };
  },
};
