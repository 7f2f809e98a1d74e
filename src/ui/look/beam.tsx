/** Share of the drawn width at which the physical end stands; what is promised beyond it overhangs. */
const END = 64;
const OVERHANG_SHOWN = 1.5;

interface BeamProps {
  /** Shares of the physical size. */
  filled: number;
  subscribed: number;
  label: string;
}

/** A pool as a beam: two flanges between supports, filled as far as extents are taken; a tick where its promises end. */
export function Beam({ filled, subscribed, label }: BeamProps) {
  const promised = Math.min(subscribed, OVERHANG_SHOWN) * END;
  const support = (at: string) => (
    <svg className="absolute top-[14px]" style={{ left: at }} width="9" height="7" viewBox="0 0 9 7" aria-hidden="true">
      <path d="M4.5.5 8.5 6.5h-8z" fill="none" stroke="currentColor" />
    </svg>
  );
  const line = (left: number, top: number, height: number) => (
    <i className="absolute w-px bg-current" style={{ left: `${left}%`, top, height }} />
  );
  return (
    <div className="gfx relative h-[22px]" role="img" aria-label={label}>
      <i
        className="absolute top-[3px] h-[11px] border-x border-y-[1.5px] border-current"
        style={{ left: 0, width: `${END}%` }}
      />
      <i
        className="absolute top-[5.5px] h-[6px] bg-current"
        style={{ left: 0, width: `${Math.min(1, filled) * END}%` }}
      />
      {subscribed > 1 && (
        <i
          className="absolute top-[3px] h-[11px] border-y border-dashed border-current"
          style={{ left: `${END}%`, width: `${promised - END}%` }}
        />
      )}
      {line(promised, 3, 11)}
      {line(0.75 * END, 0, 3)}
      {line(0.9 * END, 0, 3)}
      {support('0')}
      {support(`calc(${END}% - 9px)`)}
    </div>
  );
}

/** A volume: thin is a line with an end stop, thick a box; filled as far as it is written. */
export function VolumeBar({ share, thin }: { share: number; thin: boolean }) {
  const width = `${Math.min(1, share) * 100}%`;
  return (
    <span className="gfx relative block h-[26px] w-[34px] flex-none" aria-hidden="true">
      {thin ? (
        <>
          <i className="absolute inset-x-0 top-[13px] h-px bg-current" />
          <i className="absolute top-[9px] right-0 h-[9px] w-px bg-current" />
          <i className="absolute top-[11px] left-0 h-[5px] bg-current" style={{ width }} />
        </>
      ) : (
        <>
          <i className="absolute inset-x-0 top-[8px] h-[11px] border border-current" />
          <i className="absolute top-[8px] left-0 h-[11px] bg-current" style={{ width }} />
        </>
      )}
    </span>
  );
}
