'use client';
import { useQuery } from '@tanstack/react-query';
import type { PortLoadLine } from '@/core/trace/load-view';
import { formatRate } from '@/core/units/rate';
import { api } from '../api/client';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';

const percent = (share: number): string =>
  share === 0 ? '0 %' : share < 0.01 ? 'under 1 %' : `${Math.round(share * 100)} %`;

/** Load of array ports, oversubscription of links, and buffer credits for the distance. */
export function LoadTables() {
  const { open } = usePlace();
  const { data, error } = useQuery({ queryKey: ['load'], queryFn: api.load });
  if (error) return <p className="refusal mt-2">The load was asked for. {error.message}</p>;
  if (!data) return null;
  return (
    <>
      <section aria-label="Array ports" className="pt-3">
        <h2 className="caps border-b border-ink pb-1">Array ports</h2>
        <table className="table w-full [&_td]:align-middle!" aria-label="Load of array ports">
          <thead>
            <tr>
              <th className="w-6" aria-label="State" />
              <th>Port</th>
              <th>Plugged in</th>
              <th className="right">Host ports</th>
              <th className="right">LUNs</th>
              <th className="right">Commands asked</th>
              <th className="right">It takes</th>
              <th className="right">Asked ÷ takes</th>
              <th className="right">Safe depth</th>
              <th className="right">Written</th>
              <th className="right">Of the port</th>
              <th className="right">With one side lost</th>
              <th>Next host</th>
            </tr>
          </thead>
          <tbody>
            {data.ports.map((line) => (
              <tr key={`${line.array} ${line.port}`}>
                <td>
                  <StatePost post={tooMuch(line, data.fanIn) ? 'leans' : 'stands'} />
                </td>
                <td className="name whitespace-nowrap">
                  {line.array} {line.port}
                </td>
                <td className="whitespace-nowrap text-ink2">{line.where || 'nowhere'}</td>
                <td className="num right">{line.initiators}</td>
                <td className="num right">{line.luns}</td>
                <td className="num right">{line.demand}</td>
                <td className="num right">{line.limit}</td>
                <td className={`num right ${line.overcommit > 1 ? 'text-red' : ''}`}>{line.overcommit.toFixed(2)}</td>
                <td className="num right">{line.luns > 0 ? line.safeDepth : '–'}</td>
                <td className="num right whitespace-nowrap">{line.rate > 0 ? formatRate(line.rate) : '–'}</td>
                <td className={`num right whitespace-nowrap ${line.utilisation >= 0.7 ? 'text-red' : ''}`}>
                  {percent(line.utilisation)}
                </td>
                <td className={`num right whitespace-nowrap ${line.survivor > 0.9 ? 'text-red' : ''}`}>
                  {percent(line.survivor)}
                </td>
                <td>{line.next ? 'here' : ''}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <div className="grid grid-cols-[repeat(auto-fit,minmax(480px,1fr))] gap-6 pt-4">
        <section aria-label="Links between switches">
          <h2 className="caps border-b border-ink pb-1">Links between switches</h2>
          <table className="table w-full" aria-label="Oversubscription">
            <thead>
              <tr>
                <th>Between</th>
                <th>Links</th>
                <th className="right">Edge, Gb/s</th>
                <th className="right">Links, Gb/s</th>
                <th className="right">Ratio</th>
              </tr>
            </thead>
            <tbody>
              {data.trunks.map((line) => (
                <tr key={line.between}>
                  <td className="name">{line.between}</td>
                  <td>{line.links.join(', ')}</td>
                  <td className="num right">{line.crossing}</td>
                  <td className="num right">{line.carries}</td>
                  <td className={`num right ${line.ratio > 7 ? 'text-red' : ''}`}>{line.ratio.toFixed(1)}:1</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <section aria-label="Buffer credits">
          <h2 className="caps border-b border-ink pb-1">Buffer credits for the distance</h2>
          <table className="table w-full" aria-label="Buffer credits">
            <thead>
              <tr>
                <th>Link</th>
                <th className="right">km</th>
                <th className="right">Gb/s</th>
                <th className="right">Has</th>
                <th className="right">Needs</th>
                <th className="right">Line rate reached</th>
              </tr>
            </thead>
            <tbody>
              {data.credits.map((line) => (
                <tr key={line.link}>
                  <td className="name">{line.link}</td>
                  <td className="num right">{line.km}</td>
                  <td className="num right">{line.speed}</td>
                  <td className={`num right ${line.credits < line.needed ? 'text-red' : ''}`}>{line.credits}</td>
                  <td className="num right">{line.needed}</td>
                  <td className="num right">{percent(line.share)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      </div>
      <p className="pt-3">
        <button type="button" className="verb" onClick={() => open('storage.give')}>
          Give storage to a host
        </button>{' '}
        <span className="text-ink2">joins it with the ports marked “here”.</span>
      </p>
    </>
  );
}

const tooMuch = (line: PortLoadLine, fanIn: number): boolean =>
  line.overcommit > 1 || line.utilisation >= 0.7 || line.survivor > 0.9 || line.initiators > fanIn;
