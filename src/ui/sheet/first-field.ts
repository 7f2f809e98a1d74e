import { useEffect, useRef } from 'react';
import type { FormSpec } from '@/core/operation/form';

const FOCUSABLE = ':is(input, textarea, button, [role=combobox], [role=listbox], [tabindex="0"])';
/** Frames that are waited for a field whose choices are still asked for. */
const FRAMES = 40;

/** Puts the focus on what is to be filled in first: the field the sheet was opened for, else the first that is not given yet. */
export function useFirstField(
  root: React.RefObject<HTMLFormElement | null>,
  spec: FormSpec,
  start: Record<string, unknown>,
  named: string | undefined,
): void {
  const wanted = useRef(() => {
    const open = spec.fields.filter((field) => !field.more);
    // Of a host and a cluster only one is asked for.
    const answered = (name: string) =>
      name in start || (name === 'cluster' && 'host' in start) || (name === 'host' && 'cluster' in start);
    return named ?? (open.find((field) => !answered(field.name)) ?? open[0])?.name;
  });
  useEffect(() => {
    const name = wanted.current();
    let frames = 0;
    let frame = 0;
    const look = () => {
      const board = spec.columns.length === 0 && name !== undefined && !(name in start) ? '[data-drives]' : null;
      const found =
        (board ? document.querySelector<HTMLElement>(board) : null) ??
        root.current?.querySelector<HTMLElement>(`[data-field="${name}"] ${FOCUSABLE}`);
      if (found) return found.focus({ preventScroll: board !== null });
      frames += 1;
      if (frames < FRAMES) frame = requestAnimationFrame(look);
      else root.current?.querySelector<HTMLElement>(FOCUSABLE)?.focus();
    };
    look();
    return () => cancelAnimationFrame(frame);
    // Once, when the sheet opens.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
}
