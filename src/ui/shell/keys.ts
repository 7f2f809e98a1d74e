/** Whether a key belongs to a field or an open list of choices, so that single-letter shortcuts must leave it alone. */
export function isTyping(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName)) return true;
  return target.closest('[role=combobox], [data-radix-popper-content-wrapper]') !== null;
}
