import { hostsInSight, spanSight, storeyInSight } from '@/core/span/sight';
import { spanInParts } from '@/core/span/model';
import type { InParts } from '@/core/units/in-parts';
import type { Plant } from './plant';
import { Problem } from './problem';
import { ofOneMoment } from './slices';

/** The drawing's answers as text, each worked out once a version of the estate however many ask for it. */
export class Drawing {
  private readonly known = new Map<string, { version: number; text: Promise<string> }>();

  constructor(private readonly plant: Plant) {}

  whole(): Promise<string> {
    return this.once('whole', () => spanInParts(this.plant.estate));
  }

  sight(): Promise<string> {
    return this.once('sight', () => spanSight(this.plant.estate));
  }

  /** @throws Problem where there is no such array. */
  storey(key: string): Promise<string> {
    const arrays = this.plant.estate.table('array');
    const array = arrays.get(key) ?? [...arrays.values()].find(({ name }) => name === key);
    if (!array) throw new Problem(404, 'not-found', `There is no array ${key}.`, 'Name it by id or by name.');
    return this.once(array.id, () => storeyInSight(this.plant.estate, array.id));
  }

  hosts(ids: readonly string[]): string {
    return JSON.stringify({ items: hostsInSight(this.plant.estate, ids) });
  }

  private once<T>(key: string, make: () => InParts<T>): Promise<string> {
    const { version } = this.plant;
    const known = this.known.get(key);
    if (known?.version === version) return known.text;
    const text = ofOneMoment(this.plant, make).then((value) =>
      JSON.stringify({ version: this.plant.version, ...value }),
    );
    this.known.set(key, { version, text });
    // What failed is worked out anew by whoever asks next.
    text.catch(() => this.known.delete(key));
    return text;
  }
}
