import { z } from 'zod';
import type { HostDevice } from '../../estate/entities';
import { hostOf } from '../../estate/relations';
import { pick } from '../../operation/form';
import { inquire } from '../../operation/inquiry';
import { flag } from '../../operation/params';
import type { RecipeType, Written } from '../../operation/recipe';
import { mountedOn, snapshotRestore } from '../../protect/snapshot-restore';
import { askPoints, askProtected, draftProtected, namedWords } from '../../protect/subject';
import { someOf } from '../../units/counted';
import { namedFields, namedParams } from '../../protect/named';

const schema = z.object({
  ...namedParams,
  copy: z.string().describe('The copy to go back to'),
  safety: flag.default(true).describe('What stands now is copied first'),
});
type Params = z.output<typeof schema>;

export const goBack: RecipeType<Params> = {
  kind: 'copy.go-back',
  verb: 'Bring back what was',
  summary: 'Stops the hosts by unmounting, brings a workload or a volume back to a copy, and mounts it where it was.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      ...namedFields,
      copy: pick('Back to'),
      safety: { label: 'Copy what stands now first', control: 'switch' },
    },
  },
  title: (p) => `Bring ${namedWords(p)} back to ${p.copy}`,
  unfold(view, p) {
    const asks = inquire(view);
    const subject = askProtected(view, asks, p);
    const [point] = subject ? askPoints(view, asks, subject, [p.copy], 'copy') : [];
    if (!subject || !point) return { ok: false, refusals: asks.refusals };
    const inPoint = subject.volumes.filter((volume) => point.copies.some((copy) => copy.volume === volume.id));
    const hadFiles = new Set(point.copies.flatMap((copy) => (copy.image === null ? [] : [copy.volume])));
    const devices = mountedOn(view, subject.volumes);
    const again = devices.filter(
      (device) => hadFiles.has(device.volume) || !inPoint.some((volume) => volume.id === device.volume),
    );
    const at = (device: HostDevice) => ({ host: hostOf(view, device).name, device: device.name });
    const operations: Written[] = [
      ...devices.map((device) => ({ do: 'host-device.unmount', ...at(device) })),
      {
        do: 'snapshot.restore',
        ...(p.workload ? { workload: p.workload } : { array: p.array, volume: p.volume }),
        copy: point.name,
        safety: p.safety,
      },
      ...again.map((device) => ({ do: 'host-device.mount', ...at(device), mountPoint: device.mountPoint! })),
    ];
    return { ok: true, operations };
  },
  foretell(view, draft, context) {
    const { fields } = snapshotRestore.foretell(view, draft, context);
    const subject = draftProtected(view, draft);
    const devices = subject ? mountedOn(view, subject.volumes) : [];
    const { stopped: _stopped, ...others } = fields;
    return {
      fields: {
        ...others,
        safety: {
          ...others.safety,
          says: `${others.safety?.says ?? ''} ${devices.length === 0 ? 'No host has it mounted.' : `Unmounted and mounted again: ${someOf(devices.map((device) => `${hostOf(view, device).name} ${device.mountPoint}`))}.`}`.trim(),
        },
      },
    };
  },
};
