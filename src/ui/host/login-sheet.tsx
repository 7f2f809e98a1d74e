'use client';
import { useMutation } from '@tanstack/react-query';
import { useEffect } from 'react';
import type { LoginTest } from '@/core/iscsi/login-log';
import { api, type ApiRefusal } from '../api/client';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
import { SheetFrame } from '../sheet/sheet-frame';

/** A login run for real, with what both sides write down. */
export function LoginSheet({ host, array, target }: { host: string; array: string; target: string }) {
  const { open } = usePlace();
  const test = useMutation<LoginTest, ApiRefusal>({ mutationFn: () => api.loginTest(host, array, target) });
  const { mutate, data, error } = test;
  useEffect(() => mutate(), [mutate, host, array, target]);
  return (
    <SheetFrame
      title="Login test"
      line={
        <>
          <b className="font-[640]">{host}</b> at{' '}
          <b className="font-[640]">
            {array}
            {target && target !== 'main' ? `, target ${target}` : ''}
          </b>
        </>
      }
      foot={
        <div className="flex items-center gap-3">
          <span className="flex-1 text-ink2">
            Challenge and answer are computed anew each time; secrets are never shown.
          </span>
          {data && !data.ok && (
            <button type="button" className="btn" onClick={() => open('host.configure', { host })}>
              Change the host
            </button>
          )}
          <button type="button" className="btn solid" onClick={() => mutate()}>
            Run it again
          </button>
        </div>
      }
    >
      {error && <p className="refusal m-4">{error.message}</p>}
      {data && (
        <>
          <p className="flex items-baseline gap-2 border-b border-rule px-4 py-2" role="status">
            <span className="translate-y-[2px]">
              <StatePost post={data.ok ? 'stands' : 'broken'} />
            </span>
            <span className={data.ok ? '' : 'text-red'}>
              <b className="num font-[640]">Status {data.status}.</b> {data.says}
            </span>
          </p>
          <table className="table w-full" aria-label="Log of both sides">
            <thead>
              <tr>
                <th className="w-1/2 pl-4!">{host} writes down</th>
                <th>{array} writes down</th>
              </tr>
            </thead>
            <tbody>
              {data.log.map((line, k) => (
                <tr key={k}>
                  <td className="mono pl-4! text-[11px] [overflow-wrap:anywhere]">
                    {line.side === 'host' ? line.says : ''}
                  </td>
                  <td className="mono text-[11px] [overflow-wrap:anywhere]">
                    {line.side === 'array' ? line.says : ''}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </SheetFrame>
  );
}
