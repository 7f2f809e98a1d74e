import type { Events } from './events';

/** Something that does not go on as it should, until it does. */
export interface Trouble {
  /** What it befell: the disk, the clock, a job, a change. */
  what: string;
  message: string;
  mend: string;
  /** Wall clock, milliseconds. */
  since: number;
}

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
