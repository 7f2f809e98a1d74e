import { EventEmitter } from 'node:events';
import type { Trouble, Work } from '@/core/lab/view';

/** What screens are told as it happens. */
export type ServerEvent =
  | { type: 'commit'; version: number; kinds: string[] }
  | { type: 'clock'; now: number; speed: number; jobs: { id: string; progress: number; left: number }[] }
  | { type: 'change'; id: string; state: string; done: number; of: number }
  | { type: 'tray'; change: string | null }
  | { type: 'trouble'; troubles: Trouble[] }
  | ({ type: 'work' } & Work);

/** Hands events to whoever listens; a listener that fails does not keep the others from hearing. */
export class Events {
  private readonly emitter = new EventEmitter().setMaxListeners(0);

  emit(event: ServerEvent): void {
    this.emitter.emit('event', event);
  }

  listen(listener: (event: ServerEvent) => void): () => void {
    this.emitter.on('event', listener);
    return () => this.emitter.off('event', listener);
  }

  /** Tells every stream to end, so that the process can. */
  shutDown(): void {
    this.emitter.emit('shutdown');
  }

  onShutDown(listener: () => void): () => void {
    this.emitter.once('shutdown', listener);
    return () => this.emitter.off('shutdown', listener);
  }
}
