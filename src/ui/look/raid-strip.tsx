/** Chunks of one stripe: data hollow, parity hatched after a gap, mirrors as two stacked halves. */
export function RaidStrip({
  data,
  redundancy,
  mirror,
  room = 150,
}: {
  data: number;
  redundancy: number;
  mirror: boolean;
  room?: number;
}) {
  const parity = mirror ? 0 : redundancy;
  const pitch = Math.min(12, Math.max(3, Math.floor((room - 4) / (data + parity))));
  const cell = pitch - 1;
  const shown = data;
  const height = 14;
  const width = shown * pitch + (parity > 0 ? 3 + parity * pitch : 0);
  return (
    <svg className="gfx" width={width + 1} height={height + 1} aria-hidden="true">
      {Array.from({ length: shown }, (_, k) => (
        <g key={k} transform={`translate(${k * pitch + 0.5} .5)`}>
          <rect width={cell} height={mirror ? 7 : height} fill="none" stroke="currentColor" />
          {mirror && <Hatched y={7} height={7} width={cell} />}
        </g>
      ))}
      {Array.from({ length: parity }, (_, k) => (
        <g key={k} transform={`translate(${shown * pitch + 3.5 + k * pitch} .5)`}>
          <Hatched y={0} height={height} width={cell} />
        </g>
      ))}
    </svg>
  );
}

/** A hatched cell: 45° lines drawn one by one, since a pattern would not take the pen's colour. */
function Hatched({ y, height, width }: { y: number; height: number; width: number }) {
  const lines: string[] = [];
  for (let c = 4; c < width + height; c += 4) {
    const x1 = Math.max(0, c - height);
    const x2 = Math.min(width, c);
    lines.push(`M${x1} ${y + c - x1}L${x2} ${y + c - x2}`);
  }
  return (
    <>
      <rect y={y} width={width} height={height} fill="none" stroke="currentColor" />
      <path d={lines.join('')} stroke="currentColor" strokeWidth="1.2" />
    </>
  );
}
