'use client';
import { useMemo } from 'react';
import type { FabricModel } from '@/core/trace/matrix';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';

type Login = FabricModel['logins'][number];

/** The fabric's name server: every port that is plugged in, whose it is, and those that are nobody's yet. */
export function LoginTable({ fabric }: { fabric: FabricModel }) {
  const { open } = usePlace();
  const columns = useMemo(
    (): AnyColumn<Login>[] => [
      stateColumn((login) => (login.up ? 'stands' : 'broken')),
      { head: 'Port name', kind: 'mono', value: (login) => login.wwpn },
      { head: 'Node name', kind: 'mono', className: 'text-ink2', value: (login) => login.wwnn },
      { head: 'FCID', kind: 'mono', value: (login) => login.fcid || 'no login' },
      { head: 'Plugged in', value: ({ switch: at, port }) => `${at} port ${port}` },
      { head: 'Gb/s', kind: 'number', value: (login) => login.speed },
      { head: 'Alias', value: (login) => login.alias },
      {
        head: 'Belongs to',
        value: ({ owner, name }) => (owner ? `${owner} ${name}` : 'nobody yet'),
        cell: ({ owner, name, wwpn, siblings }) =>
          owner ? (
            `${owner} ${name}`
          ) : (
            <button
              type="button"
              className="verb"
              onClick={() => open('host.create', { initiators: [wwpn, ...siblings] })}
            >
              Nobody yet: register its host
            </button>
          ),
      },
    ],
    [open],
  );
  return (
    <DataTable
      label={`Logins of fabric ${fabric.name}`}
      rows={fabric.logins}
      keyOf={({ id }) => id}
      columns={columns}
      className="[&_td]:align-middle!"
    />
  );
}
