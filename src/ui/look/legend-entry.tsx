/** One mark of a drawing and how it is to be read. */
export function LegendEntry({
  width,
  height,
  children,
  text,
}: {
  width: number;
  height: number;
  children: React.ReactNode;
  text: string;
}) {
  return (
    <span className="flex items-center gap-1.5">
      <svg width={width} height={height} aria-hidden="true" className="text-ink">
        {children}
      </svg>
      {text}
    </span>
  );
}
