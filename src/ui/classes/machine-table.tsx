import type { MachineRow } from '@/core/machine/view';
import { formatBytes } from '@/core/units/bytes';
import { momentText } from '@/core/units/date';
import { usePlace } from '../shell/place';

/** Machines of a consumer: on which volume each of their disks lies, by name and identity, and to when they can go back. */
export function MachineTable({ machines, allotment }: { machines: readonly MachineRow[]; allotment: string }) {
  const { open } = usePlace();
  return (
    <section aria-label="Machines" className="pt-4">
      <div className="flex items-baseline gap-3 border-b border-ink pb-0.5">
        <h3 className="min-w-0 flex-1 font-[640]">Machines</h3>
        <button type="button" className="verb" onClick={() => open('machine.make', { allotment })}>
          Make a machine
        </button>
      </div>
      {machines.length === 0 ? (
        <p className="pt-1 text-ink2">None yet. Each disk of a machine becomes a volume of its own.</p>
      ) : (
        <table className="table w-full" aria-label="Machines">
          <thead>
            <tr className="caps">
              <th>Machine</th>
              <th>Disk</th>
              <th className="text-right!">Size</th>
              <th>Lies on</th>
              <th>NAA</th>
              <th>Copies</th>
              <th>Do</th>
            </tr>
          </thead>
          <tbody className="num">
            {machines.flatMap((machine) =>
              (machine.disks.length > 0 ? machine.disks : [null]).map((disk, k) => (
                <tr key={`${machine.id} ${disk?.name ?? ''}`}>
                  <td>
                    {k === 0 && (
                      <>
                        <b className="name">{machine.name}</b>
                        <span className="narrow block text-ink2">
                          {machine.cluster}, {machine.running ? 'running' : 'off'}
                        </span>
                      </>
                    )}
                  </td>
                  <td>{disk?.name ?? <span className="text-ink2">no disk</span>}</td>
                  <td className="text-right">{disk && formatBytes(disk.size)}</td>
                  <td>
                    {disk && (
                      <>
                        {disk.volume}
                        <span className="narrow block text-ink2">
                          {disk.array}
                          {disk.share ? ', a share' : ''}
                        </span>
                      </>
                    )}
                  </td>
                  <td className="mono text-[11.5px]">{disk?.naa}</td>
                  <td className="whitespace-normal! text-ink2">
                    {k === 0 &&
                      (machine.uncopied ??
                        (machine.newestCopy === null
                          ? 'none'
                          : `${machine.copies}, newest ${momentText(machine.newestCopy)}`))}
                  </td>
                  <td>{k === 0 && <Verbs machine={machine} />}</td>
                </tr>
              )),
            )}
          </tbody>
        </table>
      )}
    </section>
  );
}

function Verbs({ machine }: { machine: MachineRow }) {
  const { open } = usePlace();
  const verb = (label: string, kind: string, params: Record<string, unknown>) => (
    <button type="button" className="verb" onClick={() => open(kind, params)}>
      {label}
    </button>
  );
  return (
    <span className="flex flex-wrap gap-x-3">
      {machine.uncopied === null && verb('Copy', 'machine.copy', { machine: machine.name })}
      {machine.copies > 0 && verb('Go back', 'machine.go-back', { machine: machine.name })}
      {verb('Add disk', 'machine.add-disk', { machine: machine.name })}
      {verb(machine.running ? 'Switch off' : 'Switch on', 'machine.switch', {
        machines: [machine.name],
        on: !machine.running,
      })}
      {!machine.running && verb('Put away', 'machine.delete', { machines: [machine.name] })}
    </span>
  );
}
