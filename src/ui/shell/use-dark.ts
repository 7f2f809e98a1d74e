'use client';
import { useTheme } from 'next-themes';
import { useSyncExternalStore } from 'react';

const never = () => () => {};

/** Whether the dark paper is up. The server cannot know; until the page is alive the answer is no, so that both draw the same. */
export function useDark(): { dark: boolean; switchPaper: () => void } {
  const { resolvedTheme, setTheme } = useTheme();
  const alive = useSyncExternalStore(
    never,
    () => true,
    () => false,
  );
  const dark = alive && resolvedTheme === 'dark';
  return { dark, switchPaper: () => setTheme(dark ? 'light' : 'dark') };
}
