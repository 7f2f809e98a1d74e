import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { NOTHING, rule, wrong, type Rule } from './rule';

const LEAVE = 'Leave it as it is, and report this.';

const volumeOf = (view: EstateView, id: string): Volume | undefined => view.table('volume').get(id);
/** The volume from whose copies a family comes: that itself, or the one from which it was cloned. */
const familyOf = (volume: Volume | undefined): string | undefined => volume?.origin ?? volume?.id;

/**
 * A copy comes from another copy of its family, and by way of those from the beginning. One that is older was judged when it was made: what comes from
 * it comes from the beginning, too, so that a copy costs the same however many there are before it.
 */
const comesFromItsFamily = rule({
  of: 'snapshot',
  code: 'copy-lineage',
  reads: ['parent', 'volume'],
  broken(view, copy) {
    const copies = view.table('snapshot');
    const family = familyOf(volumeOf(view, copy.volume));
    const met = new Set<string>([copy.id]);
    for (let at = copy.parent; at !== null;) {
      const parent = copies.get(at);
      if (met.has(at)) return wrong(`Copy ${copy.name} would come from itself.`, LEAVE);
      if (!parent || familyOf(volumeOf(view, parent.volume)) !== family)
        return wrong(`Copy ${copy.name} would come from a copy of another volume.`, LEAVE);
      if (parent.at < copy.at) return NOTHING;
      met.add(at);
      at = parent.parent;
    }
    return NOTHING;
  },
});

/** What a volume stands on is a copy of its family, and what it was cloned from is no clone itself. */
const standsOnItsFamily = rule({
  of: 'volume',
  code: 'volume-lineage',
  reads: ['base', 'origin'],
  broken(view, volume) {
    if (volume.origin !== null && volumeOf(view, volume.origin)?.origin !== null)
      return wrong(`Volume ${volume.name} would be a clone of a clone.`, LEAVE);
    if (volume.base === null) return NOTHING;
    const base = view.table('snapshot').get(volume.base);
    return base && familyOf(volumeOf(view, base.volume)) === familyOf(volume)
      ? NOTHING
      : wrong(`Volume ${volume.name} would stand on a copy of another volume.`, LEAVE);
  },
});

/** How copies come from each other: what they take together is worked out along these ways. */
export const lineageRules: readonly Rule[] = [comesFromItsFamily, standsOnItsFamily];
