'use client';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { SheetHost } from '../sheet/sheet-host';
import { AddressProvider } from './address';
import { ClockContext } from './clock-context';
import { useLive } from './live';
import { usePlace } from './place';
import { isTyping } from './keys';
import { WorkContext } from './told';
import { TopBar } from './top-bar';
import { Tray } from './tray';
import { TroubleStrip } from './trouble-strip';

/** What had the focus outside of sheets last. */
const lastFocus: { element: HTMLElement | null } = { element: null };
if (typeof document !== 'undefined')
  document.addEventListener('focusin', ({ target }) => {
    // Not to a field: whoever came from one goes on with keys.
    if (target instanceof HTMLElement && !target.closest('aside')) lastFocus.element = isTyping(target) ? null : target;
  });

/** The page: top bar, the view with its sheet beside it, the tray. It never scrolls; panes do. */
export const Shell = ({ children }: { children: React.ReactNode }) => (
  <AddressProvider>
    <Page>{children}</Page>
  </AddressProvider>
);

function Page({ children }: { children: React.ReactNode }) {
  const { clock, connected, troubles, work } = useLive();
  const { sheet, selection, close, select } = usePlace();
  const client = useQueryClient();

  // A link dropped and found again has missed commits.
  const dropped = useRef(false);
  useEffect(() => {
    if (connected && dropped.current) void client.invalidateQueries();
    dropped.current = !connected && clock !== null;
  }, [connected, clock, client]);

  // The focus goes back to where the sheet was opened from.
  const opener = useRef<HTMLElement | null>(null);
  const before = useRef<string | null>(null);
  useEffect(() => {
    if (before.current === null && sheet !== null) opener.current = lastFocus.element;
    const nowhere = document.activeElement === null || document.activeElement === document.body;
    if (before.current !== null && sheet === null && nowhere && opener.current?.isConnected)
      opener.current.focus({ preventScroll: true });
    before.current = sheet;
  }, [sheet]);

  // Esc puts the sheet away at once, also from a field: what was written is there when the sheet is opened again. Without one it lifts the marker.
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'Escape' || event.defaultPrevented) return;
      if (sheet) close();
      else if (isTyping(event.target) && event.target instanceof HTMLElement) event.target.blur();
      else if (selection) select(null);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [selection, sheet, close, select]);

  return (
    <ClockContext.Provider value={clock}>
      <WorkContext.Provider value={work}>
        <div className="grid h-screen grid-rows-[40px_auto_minmax(0,1fr)_34px]">
          <TopBar connected={connected} />
          <div>
            <TroubleStrip troubles={troubles} />
          </div>
          <SheetHost>{children}</SheetHost>
          <Tray />
        </div>
      </WorkContext.Provider>
    </ClockContext.Provider>
  );
}
