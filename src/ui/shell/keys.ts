/** Whether a key belongs to a field, so that single-letter shortcuts must leave it alone. */
export function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable ||
      ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName) ||
      target.closest('[role=listbox][data-radix-select-viewport],[role=dialog]') !== null)
  );
}
