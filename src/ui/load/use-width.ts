import { useLayoutEffect, useRef, useState } from 'react';

/** The width of an element as it is laid out, for drawings that fill it. */
export function useWidth(fallback = 616): [React.RefObject<HTMLDivElement | null>, number] {
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(fallback);
  useLayoutEffect(() => {
    const element = ref.current;
    if (!element) return;
    setWidth(Math.max(280, Math.floor(element.clientWidth)));
    const watch = new ResizeObserver(([entry]) => setWidth(Math.max(280, Math.floor(entry!.contentRect.width))));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  return [ref, width];
}
