import type { ArrayRow, HostDevice, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { hostOf } from '../estate/relations';
import { arrayChoices, byName, draftArray, draftList } from '../operation/draft';
import { lookUp, type Inquiry } from '../operation/inquiry';
import type { Choice, Draft, Foretold } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes } from '../units/bytes';

/** A volume that is in use, not one that was retired and is only kept. */
export function askVolume(
  asks: Inquiry,
  array: ArrayRow | undefined,
  ref: string,
  field = 'volumes',
): Volume | undefined {
  const volume = array && asks.find('volume', ref, field, array);
  if (!volume || volume.deletedAt === null) return volume;
  asks.refuse({
    code: 'volume-retired',
    field,
    subject: subjectOf('volume', volume),
    message: `${volume.name} was retired and is only kept.`,
    mend: 'Restore it first.',
  });
  return undefined;
}

/** The volumes of an array that are named, each once. */
export const askVolumes = (asks: Inquiry, array: ArrayRow, refs: readonly string[]): Volume[] =>
  [...new Set(refs)].flatMap((ref) => askVolume(asks, array, ref) ?? []);

/** Volumes of an array that are not retired, by name; `unfit` says why one cannot be chosen. */
export const volumeChoices = (
  view: EstateView,
  array: ArrayRow | undefined,
  unfit: (volume: Volume) => string | undefined = () => undefined,
): Choice[] =>
  array
    ? [...view.table('volume').by('array', array.id)]
        .filter(({ deletedAt }) => deletedAt === null)
        .sort(byName)
        .map((volume) => {
          const why = unfit(volume);
          return { value: volume.name, label: volume.name, ...(why ? { unfit: why } : {}) };
        })
    : [];

/** Fields of an operation on several volumes of an array, and the volumes chosen. */
export function volumeFields(
  view: EstateView,
  draft: Draft,
  unfit: (volume: Volume) => string | undefined,
): { fields: Foretold['fields']; array: ArrayRow | undefined; volumes: Volume[] } {
  const array = draftArray(view, draft);
  const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, volumes: {} };
  if (!array) return { fields, array, volumes: [] };
  fields.volumes!.choices = [...view.table('volume').by('array', array.id)].sort(byName).map((volume) => {
    const why = unfit(volume);
    return { value: volume.name, label: `${volume.name}, ${formatBytes(volume.size)}`, ...(why ? { unfit: why } : {}) };
  });
  const volumes = draftList(draft, 'volumes').flatMap((ref) => lookUp(view, 'volume', ref, array.id) ?? []);
  return { fields, array, volumes };
}

export const hostNameOf = (view: EstateView, device: HostDevice): string => hostOf(view, device).name;

/** `gate-1, gate-2 and 3 more` */
export function hostsOf(view: EstateView, volume: Volume): string[] {
  return view
    .table('mapping')
    .by('volume', volume.id)
    .map((mapping) => hostOf(view, mapping).name)
    .sort();
}
