/** Chunks of one stripe: data hollow, parity hatched after a gap, mirrors as two stacked halves. */
export function RaidStrip({ data, redundancy, mirror }: { data: number; redundancy: number; mirror: boolean }) {
  const shown = Math.min(data, 14);
  const parity = mirror ? 0 : Math.min(redundancy, 4);
  const height = 14;
  const width = shown * 12 + (parity > 0 ? 3 + parity * 12 : 0);
  return (
    <svg className="gfx" width={width + 1} height={height + 1} aria-hidden="true">
      {Array.from({ length: shown }, (_, k) => (
        <g key={k} transform={`translate(${k * 12 + 0.5} .5)`}>
          <rect width="11" height={mirror ? 7 : height} fill="none" stroke="currentColor" />
          {mirror && <Hatched y={7} height={7} />}
        </g>
      ))}
      {Array.from({ length: parity }, (_, k) => (
        <g key={k} transform={`translate(${shown * 12 + 3.5 + k * 12} .5)`}>
          <Hatched y={0} height={height} />
        </g>
      ))}
    </svg>
  );
}

/** A hatched cell 11 wide: 45° lines drawn one by one, since a pattern would not take the pen's colour. */
function Hatched({ y, height }: { y: number; height: number }) {
  const lines: string[] = [];
  for (let c = 4; c < 11 + height; c += 4) {
    const x1 = Math.max(0, c - height);
    const x2 = Math.min(11, c);
    lines.push(`M${x1} ${y + c - x1}L${x2} ${y + c - x2}`);
  }
  return (
    <>
      <rect y={y} width="11" height={height} fill="none" stroke="currentColor" />
      <path d={lines.join('')} stroke="currentColor" strokeWidth="1.2" />
    </>
  );
}
