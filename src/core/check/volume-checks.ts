import { servesOthers } from '../moving/fitness';
import { PAGE, wholePages } from '../content/page';
import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { reclaimable } from '../volume/reclaim';
import { formatBytes } from '../units/bytes';
import { dateText } from '../units/date';
import { DAY } from '../units/duration';
import { arrayName, each, type Look } from './each';
import { offer, type Check, type Severity } from './finding';

/** What is allocated over what hosts use, from which on an unmap is worth while. */
const UNMAP_RATIO = 1.5;
const IDLE_DAYS = 30;
/** Reduction that is not worth its cost: pages that stay nearly whole, and hardly any alike. */
const STAYS_WHOLE = 0.98;
const HARDLY_ALIKE = 1.02;

const one = (view: EstateView, volume: Volume) => ({ array: arrayName(view, volume), volumes: [volume.name] });

/** A check of volumes in use: a retired one is left alone. */
const eachVolume = (id: string, severity: Severity, title: string, look: Look<Volume>): Check =>
  each('volume', (_view, volume) => volume.name)(id, severity, title, (view, volume, context) =>
    volume.deletedAt === null ? look(view, volume, context) : null,
  );

export const volumeChecks: Check[] = [
  eachVolume('volume-unmap-unused', 'note', 'Freed blocks still mapped', (view, volume) => {
    const freed = reclaimable(view, volume);
    const mapped = volume.written;
    return freed > 0 && mapped > UNMAP_RATIO * (mapped - freed)
      ? {
          says: `${volume.name}: ${formatBytes(freed)} could be unmapped.`,
          advice: 'Let hosts give freed blocks back.',
          mend: offer('Reclaim', 'volume.reclaim', one(view, volume)),
        }
      : null;
  }),
  eachVolume('volume-unexported-idle', 'note', 'Volumes nobody uses', (view, volume, { now }) => {
    const since = volume.writtenAt ?? volume.createdAt;
    if (view.table('mapping').countBy('volume', volume.id) > 0 || now - since < IDLE_DAYS * DAY) return null;
    if (servesOthers(view, volume.id)) return null;
    return {
      says: `${volume.name} is unused since ${dateText(since)}, and no host sees it.`,
      advice: 'Retire it, or map it.',
      mend: offer('Retire it', 'volume.delete', one(view, volume)),
    };
  }),
  eachVolume('volume-size-unaligned', 'warning', 'Sizes that are no whole pages', (view, volume) =>
    volume.size % PAGE !== 0
      ? {
          says: `${volume.name} has ${volume.size} bytes, no whole pages; ${formatBytes(wholePages(volume.size), 'used')} would be.`,
          advice: 'Grow it to whole pages.',
          mend: offer('Grow it', 'volume.resize', { ...one(view, volume), size: `${wholePages(volume.size)} B` }),
        }
      : null,
  ),
  {
    id: 'reduction-on-encrypted',
    severity: 'note',
    title: 'Reduction without effect',
    *find(view, context) {
      for (const pool of view.table('pool').values()) {
        if (!pool.compression) continue;
        const { volumes } = context.waterfall(pool.id);
        for (const volume of view.table('volume').by('pool', pool.id)) {
          const line = volumes.get(volume.id);
          if (!line || !volume.reduction || volume.reducedTo === 0 || line.deduped === 0 || volume.deletedAt !== null)
            continue;
          if (line.data / line.deduped <= STAYS_WHOLE || line.nonZero / line.deduped >= HARDLY_ALIKE) continue;
          yield {
            subject: { kind: 'volume', id: volume.id, name: `${arrayName(view, volume)} ${volume.name}` },
            says: `${volume.name} does not reduce: its pages stay whole, as encrypted or compressed ones do.`,
            advice: 'Leave it out of reduction.',
            mend: offer('Leave it out', 'volume.configure', { ...one(view, volume), reduction: 'false' }),
          };
        }
      }
    },
  },
];
