'use client';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { SheetHost } from '../sheet/sheet-host';
import { ClockContext } from './clock-context';
import { useLive } from './live';
import { usePlace } from './place';
import { isTyping } from './keys';
import { WorkContext } from './told';
import { TopBar } from './top-bar';
import { Tray } from './tray';
import { TroubleStrip } from './trouble-strip';

/** The page: top bar, the view with its sheet beside it, the tray. It never scrolls; panes do. */
export function Shell({ children }: { children: React.ReactNode }) {
  const { clock, connected, troubles, work } = useLive();
  const { sheet, selection, close, select } = usePlace();
  const client = useQueryClient();

  // A link dropped and found again has missed commits.
  const dropped = useRef(false);
  useEffect(() => {
    if (connected && dropped.current) void client.invalidateQueries();
    dropped.current = !connected && clock !== null;
  }, [connected, clock, client]);

  // Esc lifts the marker first, then puts the sheet away.
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'Escape' || event.defaultPrevented) return;
      const typing = isTyping(event.target);
      if (typing && event.target instanceof HTMLElement) event.target.blur();
      else if (selection) select(null);
      else if (sheet) close();
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
