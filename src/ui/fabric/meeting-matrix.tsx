'use client';
import type { FabricCell, FabricLogin, FabricModel } from '@/core/trace/matrix';
import { someOf } from '@/core/units/counted';
import { usePlace } from '../shell/place';

/** Initiators by host against target ports by array: the zone that joins each pair, what should meet and does not, what could be joined. */
export function MeetingMatrix({ fabric }: { fabric: FabricModel }) {
  const initiators = fabric.logins.filter((login) => login.role === 'initiator');
  const targets = fabric.logins.filter((login) => login.role === 'target');
  const cells = new Map(fabric.cells.map((cell) => [`${cell.initiator} ${cell.target}`, cell]));
  if (initiators.length === 0) return <p className="py-2 text-ink2">No initiator is plugged into this fabric.</p>;
  return (
    <div className="scroller overflow-x-auto" tabIndex={0} role="group" aria-label={`Matrix of fabric ${fabric.name}`}>
      <table className="matrix num w-full" aria-label={`Who meets whom in fabric ${fabric.name}`}>
        <thead>
          <tr>
            <th scope="col" className="caps text-left">
              Initiators
            </th>
            {targets.map((target, k) => (
              <th key={target.id} scope="col" className="caps">
                {targets[k - 1]?.owner === target.owner ? (
                  <span className="sr-only">{target.owner} </span>
                ) : (
                  <span className="block">{target.owner}</span>
                )}
                <b className="normal-case">{target.name}</b>
              </th>
            ))}
            <th scope="col" className="caps pl-5! text-left!">
              Plugged into
            </th>
            <th scope="col" className="caps text-left!">
              Alias
            </th>
            <th scope="col" className="caps w-full pl-4! text-left!">
              Zones that join it
            </th>
          </tr>
        </thead>
        <tbody>
          {initiators.map((initiator) => (
            <tr key={initiator.id}>
              <th scope="row" className="text-left font-normal whitespace-nowrap">
                <span className="inline-block w-[104px] font-[560]">{initiator.owner || 'nobody’s yet'}</span>
                <span className="inline-block w-[44px]">{initiator.name}</span>
                <span className="mono text-[11px] text-ink2">{initiator.wwpn}</span>
              </th>
              {targets.map((target) => (
                <td key={target.id}>
                  <Cell
                    cell={cells.get(`${initiator.id} ${target.id}`)}
                    initiator={initiator}
                    target={target}
                    fabric={fabric.name}
                  />
                </td>
              ))}
              <td className="pl-5! text-left! whitespace-nowrap">
                {initiator.switch} port {initiator.port}
                {initiator.up ? '' : ', down'}
              </td>
              <td className="text-left! whitespace-nowrap">{initiator.alias || '–'}</td>
              <td className="pl-4! text-left!">{someOf(zonesOf(fabric, initiator), 2) || 'none'}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Active zones by which an initiator meets anybody. */
const zonesOf = (fabric: FabricModel, initiator: FabricLogin): string[] => [
  ...new Set(fabric.cells.flatMap((cell) => (cell.initiator === initiator.id ? cell.zones : []))),
];

const words: Record<FabricCell['state'], string> = {
  joined: 'joined',
  missing: 'should meet, does not',
  free: 'could be joined',
};

function Cell({
  cell,
  initiator,
  target,
  fabric,
}: {
  cell: FabricCell | undefined;
  initiator: FabricLogin;
  target: FabricLogin;
  fabric: string;
}) {
  const { open } = usePlace();
  if (!cell) return null;
  const told = `${initiator.owner || initiator.wwpn} ${initiator.name} and ${target.owner} ${target.name}: ${words[cell.state]}${cell.zones.length > 0 ? ` by ${cell.zones.join(', ')}` : ''}${cell.message ? `; ${cell.message}` : ''}`;
  const act = () => {
    if (cell.state === 'joined' && cell.zones[0]) open('zone.configure', { fabric, name: cell.zones[0] });
    else if (cell.state === 'missing' && cell.reason !== 'not-zoned' && cell.volume && initiator.owner)
      open('trace', { host: initiator.owner, volume: cell.volume });
    else if (initiator.owner === '') open('host.create', { initiators: [initiator.wwpn] });
    else open('zoning.join', { fabric, host: initiator.owner, array: target.owner, ports: [target.name] });
  };
  return (
    <button type="button" className="zone-box" data-state={cell.state} aria-label={told} title={told} onClick={act}>
      {cell.state === 'joined' && cell.zones.length}
      {cell.state === 'missing' && '!'}
    </button>
  );
}
