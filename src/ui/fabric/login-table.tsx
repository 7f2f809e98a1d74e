'use client';
import type { FabricModel } from '@/core/trace/matrix';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';

/** The fabric's name server: every port that is plugged in, whose it is, and those that are nobody's yet. */
export function LoginTable({ fabric }: { fabric: FabricModel }) {
  const { open } = usePlace();
  return (
    <table className="table w-full [&_td]:align-middle!" aria-label={`Logins of fabric ${fabric.name}`}>
      <thead>
        <tr>
          <th className="w-6" aria-label="State" />
          <th>Port name</th>
          <th>Node name</th>
          <th>FCID</th>
          <th>Plugged in</th>
          <th className="right">Gb/s</th>
          <th>Alias</th>
          <th>Belongs to</th>
        </tr>
      </thead>
      <tbody>
        {fabric.logins.map((login) => (
          <tr key={login.id}>
            <td>
              <StatePost post={login.up ? 'stands' : 'broken'} />
            </td>
            <td className="mono">{login.wwpn}</td>
            <td className="mono text-ink2">{login.wwnn}</td>
            <td className="mono">{login.fcid || 'no login'}</td>
            <td>
              {login.switch} port {login.port}
            </td>
            <td className="num right">{login.speed}</td>
            <td>{login.alias}</td>
            <td>
              {login.owner ? (
                `${login.owner} ${login.name}`
              ) : (
                <button
                  type="button"
                  className="verb"
                  onClick={() => open('host.create', { initiators: [login.wwpn, ...login.siblings] })}
                >
                  Nobody yet: register its host
                </button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
