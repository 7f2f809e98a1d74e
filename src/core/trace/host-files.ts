import { dataOf } from '../copies/legs';
import { applicationLabels } from '../attach/host-application';
import type { Host } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { NamedFile } from '../kinds/file-image';

/** What runs on a host and the named files that it sees. */
export interface HostFiles {
  /** `Database; its agent does not answer.` */
  runs: string;
  files: (NamedFile & { device: string; mountPoint: string | null })[];
  /** Mounted file systems to which something may be written. */
  writable: { device: string; mountPoint: string }[];
}

const agentWords: Record<Host['agent'], string> = {
  none: 'no agent could pause it for copies',
  ready: 'its agent pauses it for copies',
  absent: 'its agent does not answer',
  slow: 'its agent takes too long to pause it',
  silent: 'its agent never tells that it goes on',
};

export function hostFiles(view: EstateView, host: Host): HostFiles {
  const devices = [...view.table('hostDevice').by('host', host.id)]
    .filter((device) => device.fileSystem !== null)
    .sort((a, b) => (a.name < b.name ? -1 : 1));
  return {
    runs:
      host.application === 'none'
        ? 'Nothing is known to run here.'
        : `${applicationLabels[host.application]}; ${agentWords[host.agent]}.`,
    files: devices.flatMap((device) =>
      dataOf(view, device).files.map((file) => ({ ...file, device: device.name, mountPoint: device.mountPoint })),
    ),
    writable: devices.flatMap(({ name, mountPoint, readOnly }) =>
      mountPoint !== null && !readOnly ? [{ device: name, mountPoint }] : [],
    ),
  };
}
