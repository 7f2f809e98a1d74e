'use client';
import { createContext, useContext, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { createPortal } from 'react-dom';
import { usePlace } from '../shell/place';

const BoardContext = createContext<{ element: HTMLElement | null; cover: (covered: boolean) => void }>({
  element: null,
  cover: () => {},
});

/** The view with, or without, a sheet at its right. The drawing narrows and stays live. */
export function Beside({ view, sheet, wide }: { view: React.ReactNode; sheet?: React.ReactNode; wide?: boolean }) {
  const [element, setElement] = useState<HTMLElement | null>(null);
  const [covered, cover] = useState(false);
  const board = useMemo(() => ({ element, cover }), [element]);
  return (
    <div className="flex min-h-0">
      <div className="relative grid min-h-0 min-w-0 flex-1">
        {/* It stays as it is under what is laid over it: its place, its focus and what it read are there again at once. */}
        <div className={`grid min-h-0 min-w-0 ${covered ? 'invisible' : ''}`} inert={covered}>
          {view}
        </div>
        <div ref={setElement} className={covered ? 'absolute inset-0 grid min-h-0 min-w-0' : 'hidden'} />
      </div>
      {sheet && (
        <aside
          className={`${wide ? 'w-[clamp(640px,60vw,980px)]' : 'w-[clamp(540px,46vw,760px)]'} flex min-h-0 flex-none flex-col border-l-[1.5px] border-ink bg-raised`}
        >
          <BoardContext.Provider value={board}>{sheet}</BoardContext.Provider>
        </aside>
      )}
    </div>
  );
}

/** Laid over the view by a sheet that needs a drawing of its own there. */
export function InsteadOfView({ children }: { children: React.ReactNode }) {
  const { element, cover } = useContext(BoardContext);
  useLayoutEffect(() => {
    cover(true);
    return () => cover(false);
  }, [cover]);
  return element && createPortal(children, element);
}

/** Title, body that scrolls, foot that stays. */
export function SheetFrame({
  title,
  line,
  children,
  foot,
  ownFocus = false,
}: {
  title: React.ReactNode;
  line?: React.ReactNode;
  children: React.ReactNode;
  foot?: React.ReactNode;
  /** Whoever fills the sheet puts the focus where it belongs. */
  ownFocus?: boolean;
}) {
  const { close } = usePlace();
  const frame = useRef<HTMLElement>(null);
  // A sheet that opens takes the focus, so that Tab goes on from it.
  useEffect(() => {
    if (!ownFocus)
      (frame.current?.querySelector<HTMLElement>('[data-first]:not(:disabled)') ?? frame.current)?.focus({
        preventScroll: true,
      });
  }, [ownFocus]);
  // Its main button is pressed from wherever in it the focus is.
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'Enter' || !(event.ctrlKey || event.metaKey)) return;
      const at = event.target as Node;
      if (at !== document.body && !frame.current?.contains(at)) return;
      event.preventDefault();
      frame.current?.querySelector<HTMLButtonElement>('[data-main]:not(:disabled)')?.click();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return (
    <section
      ref={frame}
      tabIndex={-1}
      aria-label={typeof title === 'string' ? title : 'Sheet'}
      className="flex min-h-0 flex-1 flex-col outline-none"
    >
      <header className="flex items-baseline gap-3 border-b border-ink px-4 py-2.5">
        <h1 className="sheet-title">{title}</h1>
        {line && <span className="narrow overflow-hidden text-ellipsis whitespace-nowrap text-ink2">{line}</span>}
        <span className="flex-1" />
        <button type="button" className="verb" onClick={close}>
          Put away
        </button>
        <kbd className="key self-center">Esc</kbd>
      </header>
      <div className="scroller min-h-0 flex-1" tabIndex={-1}>
        {children}
      </div>
      {foot && <footer className="border-t border-ink px-4 py-2.5">{foot}</footer>}
    </section>
  );
}

/** How the main button of a sheet is pressed by keys; stands beside it. */
export const MainKey = () => <kbd className="key flex-none self-center">Ctrl Enter</kbd>;
