import type { Replication, Site, Witness } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { siteOf } from '../estate/relations';
import { isStretched, type Leg } from '../copies/legs';
import { byName, draftText } from '../operation/draft';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import type { Choice, Draft } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { siteNames, type SiteName } from '../stretch/state';
import { linesBetween, placeOf } from './stretched';

/** Refuses a witness that would fall with one of the sites, or that one of them cannot ask. */
function askThirdPlace(view: EstateView, asks: Inquiry, sites: readonly Site[], witness: Witness, field: string): void {
  const at = siteOf(view, witness);
  for (const site of sites)
    if (site.id === at.id)
      asks.refuse({
        code: 'stretched-witness-domain',
        field,
        subject: subjectOf('witness', witness),
        message: `${witness.name} stands at ${site.name}: it would be lost together with what it decides about.`,
        mend: 'Choose a witness at a third place.',
      });
    else if (linesBetween(view, site.id, at.id).length === 0)
      asks.refuse({
        code: 'stretched-witness-unreached',
        field,
        subject: subjectOf('witness', witness),
        message: `No link is noted between ${site.name} and ${at.name}, so that ${site.name} could not ask ${witness.name}.`,
        mend: `Note the link between ${site.name} and ${at.name}.`,
        offer: nextStep(`Note a link to ${at.name}`, 'site-link.create', { from: site.name, to: at.name }, 'name'),
      });
}

/** The same for the sites of a stretched volume that stands. */
export const askWitnessPlace = (
  view: EstateView,
  asks: Inquiry,
  row: Replication,
  witness: Witness,
  field: string,
): void =>
  askThirdPlace(
    view,
    asks,
    siteNames.map((site) => placeOf(view, row, site)),
    witness,
    field,
  );

/** The witness that is named, where it can decide between both sites. */
export function askWitness(
  view: EstateView,
  asks: Inquiry,
  { text, sites }: { text: string; sites: readonly Site[] },
): Witness | undefined {
  const witness = asks.find('witness', text, 'witness');
  if (witness) askThirdPlace(view, asks, sites, witness, 'witness');
  return witness;
}

/** Which of two sites is named. */
export function askSite(
  asks: Inquiry,
  text: string,
  field: string,
  sites: Readonly<Record<SiteName, Site>>,
  subject: { kind: 'replication'; name: string },
): SiteName | undefined {
  const found = siteNames.find((site) => sites[site].name.toLowerCase() === text.trim().toLowerCase());
  if (!found)
    asks.refuse({
      code: 'stretched-site-unknown',
      field,
      subject,
      message: `${subject.name} has no leg at ${text || 'a site that is not named'}.`,
      mend: `Say ${sites.A.name} or ${sites.B.name}.`,
    });
  return found;
}

/** A stretched volume that an operation names, and what it asks in the course. */
export function askStretched(view: EstateView, name: string): { asks: Inquiry; row: Leg['row'] | undefined } {
  const asks = inquire(view);
  const row = asks.find('replication', name, 'replication');
  if (!row || isStretched(row)) return { asks, row };
  asks.refuse({
    code: 'replication-not-stretched',
    field: 'replication',
    subject: subjectOf('replication', row),
    message: `${row.name} has a source and a target; it is not stretched.`,
    mend: 'Choose one that is.',
  });
  return { asks, row: undefined };
}

export function draftStretched(view: EstateView, draft: Draft): Leg['row'] | undefined {
  const row = lookUp(view, 'replication', draftText(draft, 'replication'));
  return row && isStretched(row) ? row : undefined;
}

export const stretchedChoices = (view: EstateView): Choice[] =>
  [...view.table('replication').by('stretched', '')].sort(byName).map((row) => ({
    value: row.name,
    label: `${row.name}, ${placeOf(view, row, 'A').name} and ${placeOf(view, row, 'B').name}`,
  }));

export const placeChoices = (view: EstateView, row: Replication | undefined): Choice[] =>
  row ? siteNames.map((site) => placeOf(view, row, site).name).map((name) => ({ value: name, label: name })) : [];
