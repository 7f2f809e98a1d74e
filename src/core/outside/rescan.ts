import { z } from 'zod';
import { created, deleted, type Effect } from '../estate/effects';
import { rowOf, type ArrayRow, type OutsideLun, type Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { backWays } from '../fabric/back-ways';
import { fcDevices, type FcDevice } from '../fabric/devices';
import { formatWwn } from '../naming/wwn';
import { byName, draftArray } from '../operation/draft';
import { the } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { nextStep, type NextStep } from '../operation/next-step';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { counted, someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { arrayAnswers } from '../volume/health';
import { lunsOf, ownArrayChoices } from './ask';

const schema = z.object({ array: z.string() });

/** Outside arrays that an array sees over the fabric and that answer, each with how many ways lead there. */
export const seenOutside = (view: EstateView, array: ArrayRow): { outside: ArrayRow; ways: number }[] =>
  [...view.table('array').values()]
    .filter((row) => row.outside && row.id !== array.id)
    .sort(byName)
    .map((outside) => ({
      outside,
      ways: arrayAnswers(view, outside.id) ? backWays(view, array.id, outside.id).length : 0,
    }));

/** A zone of every port of an array with those of an outside one, in the first fabric to which both are plugged. */
function zoneOffer(view: EstateView, array: ArrayRow, outside: ArrayRow): NextStep {
  const devices = (id: string) => fcDevices(view).filter(({ owner, fabric }) => owner === id && fabric !== null);
  const [own, theirs] = [devices(array.id), devices(outside.id)];
  const fabric = own.find((one) => theirs.some((other) => other.fabric === one.fabric))?.fabric;
  if (!fabric) return nextStep('Make a zone', 'zone.create', {}, 'members');
  const names = (found: readonly FcDevice[]) =>
    found.filter((one) => one.fabric === fabric).map(({ wwpn }) => formatWwn(wwpn));
  return nextStep(`Zone ${array.name} with ${outside.name}`, 'zone.create', {
    fabric: view.table('fabric').get(fabric)!.name,
    name: `${array.name}_${outside.name}`,
    kind: 'peer',
    principals: names(theirs),
    members: names(own),
  });
}

/** What an outside array shows, by name; what is only kept there is not shown. */
export const shownBy = (view: EstateView, outside: string): Volume[] =>
  view
    .table('volume')
    .by('array', outside)
    .filter((volume) => volume.deletedAt === null)
    .sort(byName);

/** LUNs that are no longer shown, and of which nothing is in use. */
const gone = (view: EstateView, rows: readonly OutsideLun[], reached: ReadonlySet<string>): OutsideLun[] =>
  rows.filter((row) => {
    if (row.drive !== null || row.state === 'fenced') return false;
    const volume = view.table('volume').get(row.volume);
    return row.state === 'done' || !volume || volume.deletedAt !== null || !reached.has(volume.array);
  });

export const outsideRescan: OperationType<z.output<typeof schema>> = {
  kind: 'outside.rescan',
  verb: 'Look for outside LUNs',
  summary: 'An array looks over the fabric for what outside arrays show it. Nothing is read or written yet.',
  schema,
  form: { columns: [4, 5, 6], fields: { array: the.array } },
  title: (p) => `Look for outside LUNs from ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    if (!array) return refused(asks.refusals);
    if (array.outside) {
      asks.refuse({
        code: 'array-outside',
        field: 'array',
        subject: subjectOf('array', array),
        message: `${array.name} is an outside array itself.`,
        mend: 'Choose the array behind which its LUNs are to stand.',
      });
      return refused(asks.refusals);
    }
    const outsides = seenOutside(view, array);
    const reached = new Set(outsides.flatMap(({ outside, ways }) => (ways > 0 ? [outside.id] : [])));
    const present = lunsOf(view, array.id);
    const going = gone(view, present, reached);
    const kept = present.filter((row) => !going.includes(row));
    const effects: Effect[] = going.map((row) => deleted('outsideLun', row));
    const found: string[] = [];
    for (const { outside } of outsides.filter(({ ways }) => ways > 0)) {
      const taken = new Set(
        kept.filter((row) => view.table('volume').get(row.volume)!.array === outside.id).map(({ lun }) => lun),
      );
      const known = new Set(kept.map(({ volume }) => volume));
      for (const volume of shownBy(view, outside.id)) {
        if (known.has(volume.id)) continue;
        let lun = 0;
        while (taken.has(lun)) lun += 1;
        taken.add(lun);
        const name = `${outside.name}:${lun}`;
        found.push(name);
        effects.push(
          created(
            'outsideLun',
            rowOf('outsideLun', {
              id: context.newId('outsideLun'),
              name,
              array: array.id,
              volume: volume.id,
              lun,
              foundAt: context.now,
              log: [{ at: context.now, says: 'found on the fabric' }],
            }),
          ),
        );
      }
    }
    if (effects.length === 0) {
      const [silent] = outsides.filter(({ ways }) => ways === 0);
      asks.refuse({
        code: silent ? 'outside-unseen' : 'nothing-new',
        field: 'array',
        subject: subjectOf('array', array),
        message: silent
          ? `${array.name} sees nothing of ${silent.outside.name}: no port of the one is zoned with a port of the other that is logged in.`
          : `${array.name} sees no outside LUN that it does not know already.`,
        mend: silent
          ? `Zone a Fibre Channel port of ${array.name} with one of ${silent.outside.name}, then look again.`
          : 'Leave it as it is.',
        ...(silent ? { offer: zoneOffer(view, array, silent.outside) } : {}),
      });
      return refused(asks.refusals);
    }
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${array.name} looks: ${[
        ...(found.length > 0 ? [`${someOf(found)} ${found.length === 1 ? 'is' : 'are'} found`] : []),
        ...(going.length > 0
          ? [`${someOf(going.map(({ name }) => name))} ${going.length === 1 ? 'is' : 'are'} no longer shown`]
          : []),
      ].join(', ')}`,
      takes: 10 * SECOND,
      effects,
      notes: outsides.flatMap(({ outside, ways }) =>
        ways === 1 ? [`${outside.name} hangs on one way: a second one would keep its LUNs there.`] : [],
      ),
      next:
        found.length > 0
          ? [nextStep('Inspect what was found', 'outside.inspect', { array: array.name, luns: found })]
          : [],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    return {
      fields: {
        array: {
          choices: ownArrayChoices(view),
          says: array
            ? seenOutside(view, array)
                .map(({ outside, ways }) =>
                  ways > 0 ? `${outside.name} over ${counted(ways, 'way')}.` : `${outside.name} is not seen.`,
                )
                .join(' ') || 'There is no outside array.'
            : 'The array behind which LUNs are to stand.',
        },
      },
    };
  },
};
