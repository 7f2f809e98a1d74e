import { hostsInSight, MOST_HOSTS, spanSight, storeyInSight } from '@/core/span/sight';
import { spanInParts } from '@/core/span/model';
import type { InParts } from '@/core/units/in-parts';
import type { Plant } from './plant';
import { Problem } from './problem';
import { ofOneMoment } from './slices';

/** The drawing's answers as text; those that screens ask for are worked out once a version of the estate, however many there are. */
export class Drawing {
  private readonly known = new Map<string, { version: number; text: Promise<string> }>();

  constructor(private readonly plant: Plant) {}

  /** All of it, which no screen asks for and nobody keeps. */
  whole(): Promise<string> {
    return this.worked(() => spanInParts(this.plant.estate));
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

  /** @throws Problem where too many are asked for at a time. */
  hosts(ids: readonly string[]): string {
    if (ids.length > MOST_HOSTS)
      throw new Problem(
        400,
        'too-many-hosts',
        `${ids.length} hosts are asked for; one answer tells at most ${MOST_HOSTS}.`,
        'Ask for them in several goes.',
      );
    return JSON.stringify({ items: hostsInSight(this.plant.estate, ids) });
  }

  private once<T>(key: string, make: () => InParts<T>): Promise<string> {
    const { version } = this.plant;
    const known = this.known.get(key);
    if (known?.version === version) return known.text;
    const made = { version, text: this.worked(make) };
    this.known.set(key, made);
    // What failed is worked out anew by whoever asks next.
    made.text.catch(() => this.known.get(key) === made && this.known.delete(key));
    return made.text;
  }

  private async worked<T>(make: () => InParts<T>): Promise<string> {
    const value = await ofOneMoment(this.plant, make);
    return JSON.stringify({ version: this.plant.version, ...value });
  }
}
