import { copyFileSync, mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { openTrabes } from './instance';

/** The demo as it begins, made once; every test has a copy of its own. */
export class PristineDemo {
  private readonly folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-pristine-'));

  make(): void {
    openTrabes(path.join(this.folder, 'demo.db'), 'demo').plant.close();
  }

  /** A new folder with a copy of the database `a.db` and its key. */
  copy(): { folder: string; file: string } {
    const folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-copy-'));
    for (const end of ['.db', '.key']) copyFileSync(path.join(this.folder, `demo${end}`), path.join(folder, `a${end}`));
    return { folder, file: path.join(folder, 'a.db') };
  }

  remove(): void {
    rmSync(this.folder, { recursive: true });
  }
}
