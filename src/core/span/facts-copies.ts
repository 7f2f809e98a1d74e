import { siteStateWords } from '../stretch/told';
import { placeOf } from '../replicate/stretched';
import { resultOf, answersHosts } from '../stretch/decide';
import { type SiteName, siteNames } from '../stretch/state';
import { type Leg, legOf } from '../copies/legs';
import { areaBytes, copiesOf } from '../copies/area';
import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { planOf } from '../protect/subject';
import { formatBytes } from '../units/bytes';
import { counted } from '../units/counted';
import { momentText } from '../units/date';
import type { FactLine } from './facts-lines';

/** The pair of which a volume is a leg, and how both sites stand. */
function legLine(view: EstateView, { row, site }: Leg): FactLine {
  const { pair } = row.stretch;
  const state = (one: SiteName) => resultOf(pair[one]);
  const serves = answersHosts(state(site));
  const idle = state(site) === 'STALE' ? 'in work' : 'broken';
  return {
    post: serves ? 'stands' : idle,
    text: `Leg of ${row.name}, stretched over two sites`,
    more: siteNames.map((one) => `${placeOf(view, row, one).name} ${siteStateWords[state(one)]}`).join(', '),
  };
}

/** What copies a volume has and keeps apart, and what it was itself made of. */
export function copyLines(view: EstateView, volume: Volume): FactLine[] {
  const copies = copiesOf(view, volume.id);
  const newest = copies.at(-1);
  const plan = planOf(view, volume);
  const origin = volume.origin === null ? undefined : view.table('volume').get(volume.origin);
  const more = [...(newest ? [`newest ${momentText(newest.at)}`] : []), ...(plan ? [`by plan ${plan.name}`] : [])].join(
    ', ',
  );
  const leg = legOf(view, volume.id);
  return [
    ...(leg ? [legLine(view, leg)] : []),
    ...(origin ? [{ text: `Made of a copy of ${origin.name}`, more: 'shares its data' }] : []),
    ...(newest
      ? [
          {
            text: `${counted(copies.length, 'copy', 'copies')} keep${copies.length === 1 ? 's' : ''} ${formatBytes(areaBytes(view, volume), 'used')} apart`,
            more,
          },
        ]
      : []),
  ];
}
