import type { AllotmentRow } from '@/core/service/answers';
import { formatBytes, percentUsed } from '@/core/units/bytes';
import { useParam, usePlace } from '../shell/place';

/** From this share on an allotment is nearly used. */
const NEARLY = 90;

/** What is set aside for each consumer, as beams: what is gone, where it lies, and who took what. */
export function AllotmentTable({ allotments }: { allotments: readonly AllotmentRow[] }) {
  const { open } = usePlace();
  const [, setShown] = useParam('consumer');
  return (
    <section aria-label="Allotments" className="border-t border-ink px-3 py-2 [&_td]:align-baseline!">
      <h2 className="pb-2 text-[16px] font-[700] [font-stretch:84%]">Allotments</h2>
      {allotments.length === 0 ? (
        <p className="text-ink2">Nothing is set aside: whoever carves takes from what there is.</p>
      ) : (
        <table className="table w-full" aria-label="Allotments">
          <thead>
            <tr className="caps">
              <th>Consumer</th>
              <th>Classes</th>
              <th>Taken, by pool</th>
              <th className="text-right!">Taken</th>
              <th className="text-right!">Left</th>
              <th className="@max-[860px]:hidden">Lies in</th>
              <th className="text-right!">Volumes</th>
              <th>Do</th>
            </tr>
          </thead>
          <tbody className="num">
            {allotments.map((row) => {
              const percent = percentUsed(row.takenBytes, row.bytes);
              return (
                <tr key={row.id}>
                  <td className="name">
                    <button type="button" className="verb" onClick={() => setShown(row.id)}>
                      {row.name}
                    </button>
                    {row.contact && <span className="narrow block font-normal text-ink2">{row.contact}</span>}
                  </td>
                  <td className="text-ink2">{row.classes.join(', ') || 'any'}</td>
                  <td>
                    <Beam row={row} />
                  </td>
                  <td className={`text-right ${percent > NEARLY ? 'font-[640] text-red' : ''}`}>
                    {percent > NEARLY ? '✕ ' : ''}
                    {percent} %
                  </td>
                  <td className="text-right whitespace-nowrap">
                    {formatBytes(Math.max(0, row.bytes - row.takenBytes))}
                  </td>
                  <td className="narrow text-ink2 @max-[860px]:hidden">
                    {row.pools
                      .map(({ name, bytes, most }) =>
                        most === null
                          ? `${name} ${formatBytes(bytes)}`
                          : `${name} ${formatBytes(bytes)} of ${formatBytes(most)}`,
                      )
                      .join(', ') || '–'}
                  </td>
                  <td className="text-right whitespace-nowrap">
                    {row.volumes.length}
                    {row.mostVolumes === null ? '' : ` of ${row.mostVolumes}`}
                  </td>
                  <td className="whitespace-nowrap">
                    <span className="flex gap-3">
                      <button
                        type="button"
                        className="verb"
                        onClick={() => open('allotment.carve', { allotment: row.name })}
                      >
                        Carve
                      </button>
                      <button
                        type="button"
                        className="verb"
                        onClick={() => open('allotment.configure', { allotment: row.name })}
                      >
                        Change
                      </button>
                    </span>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </section>
  );
}

/** What is set aside; the fill is parted by pools, with a mark at nine tenths. */
function Beam({ row }: { row: AllotmentRow }) {
  const share = (bytes: number) => `${(100 * bytes) / row.bytes}%`;
  return (
    <span
      className="relative inline-flex h-[11px] w-36 border border-ink"
      role="img"
      aria-label={`${formatBytes(row.takenBytes, 'used')} of ${formatBytes(row.bytes)} taken`}
    >
      {row.pools
        .filter(({ bytes }) => bytes > 0)
        .map(({ name, bytes }) => (
          <span key={name} className="h-full border-r border-paper bg-ink2" style={{ width: share(bytes) }} />
        ))}
      <span className="absolute -top-[4px] left-[90%] h-[4px] w-px bg-ink" />
    </span>
  );
}
