import type { StretchView } from '@/core/replicate/stretch-view';
import type { FaultCell } from '@/core/stretch/fault-table';
import { pauseWords } from '@/core/stretch/told';
import { cellWords, firstWords, partWords } from './words';
import { MarkLegend, PairMark } from './site-marks';

/** Which failure, who goes on: every first failure with every second, as the protocol decides. */
export function FaultTable({ view }: { view: StretchView }) {
  const [now] = view.table;
  return (
    <section aria-label="Which failure, who goes on">
      <p className="narrow text-ink2">
        {view.sides.A.place} left, {view.sides.B.place} right.
      </p>
      <table className="mt-1 w-full table-fixed border-collapse text-center">
        <thead>
          <tr className="border-b border-ink align-bottom">
            <th scope="col" className="caps w-[126px] pb-1 text-left">
              First
            </th>
            {now!.cells.map(({ then }) => (
              <th
                key={then}
                scope="col"
                className="px-0.5 pb-1 text-[11px] leading-[13px] font-normal [font-stretch:75%]"
              >
                {then === 'nothing' ? 'then nothing' : partWords(view, then)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {view.table.map((row) => (
            <tr
              key={row.first}
              className={`border-b border-rule-faint ${row.first === 'now' ? 'bg-wash' : ''}`}
              aria-current={row.first === 'now' || undefined}
            >
              <th
                scope="row"
                className={`py-1 text-left [font-stretch:86%] ${row.first === 'now' ? 'font-[700]' : 'font-[560]'}`}
              >
                {firstWords(view, row.first)}
              </th>
              {row.cells.map((cell) => (
                <Cell key={cell.then} view={view} cell={cell} />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <MarkLegend />
    </section>
  );
}

function Cell({ view, cell }: { view: StretchView; cell: FaultCell }) {
  const words = cellWords(view, cell);
  if (cell.states === null)
    return (
      <td className="border-l border-rule-faint text-ink3" title={words}>
        <span className="sr-only">{words}</span>
        <span aria-hidden="true">·</span>
      </td>
    );
  return (
    <td className="border-l border-rule-faint">
      <span
        className={`inline-grid h-[20px] w-[44px] place-items-center ${cell.stopped ? 'text-red outline-[1.5px] outline-red outline-dashed -outline-offset-1' : ''}`}
      >
        <PairMark states={cell.states} label={`${words}${cell.stopped ? ': nobody goes on' : ''}`} />
      </span>
      {cell.takesOver && (
        <span className="narrow block text-[11px] leading-[12px] text-ink2">
          {pauseWords(view.pause[cell.takesOver])}
        </span>
      )}
    </td>
  );
}
