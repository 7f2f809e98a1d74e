/** The wordmark's sign: a beam resting on a post. */
export function Sign() {
  return (
    <svg width="21" height="20" viewBox="0 0 21 20" aria-hidden="true">
      <path d="M1 2h19v5H1z" fill="none" stroke="currentColor" strokeWidth="1.6" />
      <path d="M5 7 9 2M9.5 7l4-5M14 7l4-5" stroke="currentColor" strokeWidth="1.3" />
      <path d="M8.5 7v12h4V7" fill="none" stroke="currentColor" strokeWidth="1.6" />
    </svg>
  );
}

/** The half-filled triangle of a level line. */
export function Datum() {
  return (
    <svg width="12" height="11" viewBox="0 0 12 11" aria-hidden="true">
      <path d="M1 1h10L6 9.5z" fill="none" stroke="currentColor" strokeWidth="1.2" />
      <path d="M6 1h5L6 9.5z" fill="currentColor" />
    </svg>
  );
}

export function Tag({ tag }: { tag: string }) {
  return tag === '' ? null : (
    <span className="tag" data-tag={tag}>
      {tag}
    </span>
  );
}

/** A dimension line: how many there are, or how many of them are marked. */
export function DimensionLine({ total, marked, word }: { total: number; marked: number | null; word?: string }) {
  const slash = <path d="M1 8 8 1" stroke="currentColor" strokeWidth="1.4" />;
  return (
    <div className="relative flex h-[18px] items-center justify-center">
      <span className="absolute inset-x-0 top-[9px] h-px bg-ink2" />
      {['left-[-4px]', 'right-[-4px]'].map((side) => (
        <svg
          key={side}
          className={`absolute top-[5px] ${side}`}
          width="9"
          height="9"
          viewBox="0 0 9 9"
          aria-hidden="true"
        >
          {slash}
        </svg>
      ))}
      <span className="num relative bg-paper px-1.5 text-[12px] leading-4 [font-stretch:86%]">
        {marked === null ? (
          <b className="text-[13px]">{total}</b>
        ) : (
          <>
            <b className="bg-wash px-[3px] text-[13px]">{marked}</b> of {total}
          </>
        )}
        {word ? ` ${word}` : ''}
      </span>
    </div>
  );
}
