import type { OperationDocument } from '@/core/change/registry';
import { formatWwn } from '@/core/naming/wwn';
import { serverWwpn } from './hardware';

/** A change that waits among the changes: a server that was delivered last week gets its host, its zones and its storage. */
export const secondChange = {
  title: 'Storage for a new ticketing host',
  operations: [
    {
      do: 'host.create',
      name: 'ticket-3',
      os: 'linux',
      site: 'Nordkai',
      initiators: ['hba0', 'hba1'].map((port) => formatWwn(serverWwpn('ticket-3', port))),
    },
    {
      do: 'storage.give',
      host: 'ticket-3',
      size: '600 GiB',
      name: 'ticket-archive',
      pool: 'lintel-1/quay',
      mountPoint: '/srv/ticket-archive',
      workload: 'Ticketing',
    },
  ] as OperationDocument[],
};

/** The change that waits in the tray. */
export const preparedChange = {
  title: 'Room for the summer timetable',
  operations: [
    {
      do: 'volume.create',
      array: 'lintel-1',
      pool: 'quay',
      name: 'summer',
      size: '400 GiB',
      count: 2,
      provisioning: 'thin',
    },
    {
      do: 'mapping.create',
      host: 'gate-2',
      array: 'lintel-1',
      volumes: ['summer-1', 'summer-2'],
      ports: 'all',
      lun: 'next',
      access: 'read-write',
    },
    { do: 'host.rescan', host: 'gate-2' },
  ] as OperationDocument[],
};
