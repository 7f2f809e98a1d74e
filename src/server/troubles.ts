import type { Trouble } from '@/core/lab/view';
import type { Events } from './events';

/** What is amiss with the server now: health and every screen tell it. */
export class Troubles {
  private readonly present = new Map<string, Trouble>();

  constructor(private readonly events: Events) {}

  set(what: string, message: string, mend: string): void {
    if (this.present.get(what)?.message === message) return;
    this.present.set(what, { what, message, mend, since: Date.now() });
    this.tell();
  }

  clear(what: string): void {
    if (this.present.delete(what)) this.tell();
  }

  list(): Trouble[] {
    return [...this.present.values()];
  }

  tell(): void {
    this.events.emit({ type: 'trouble', troubles: this.list() });
  }
}
