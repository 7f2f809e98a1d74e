import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { Bytes } from '../units/bytes';
import { SECOND, type Milliseconds } from '../units/duration';
import type { BytesPerSecond } from '../units/rate';
import { changedWithin } from './activity';
import { devicesOn } from './legs';
import { shownBytes } from './parts';

/** Some volumes, and what hosts add to them: what is rewritten follows their activity, new data comes on top. */
export interface Writing {
  volumes: readonly Volume[];
  /** New data, bytes a second. */
  added: BytesPerSecond;
}

/** New data that hosts write to a volume where it is mounted, bytes a second. */
export const addedRate = (view: EstateView, volume: Pick<Volume, 'id'>): BytesPerSecond =>
  devicesOn(view, volume.id).reduce((sum, device) => sum + (device.mountPoint === null ? 0 : device.writeRate), 0);

export const writingOf = (view: EstateView, volumes: readonly Volume[]): Writing => ({
  volumes,
  added: volumes.reduce((sum, volume) => sum + addedRate(view, volume), 0),
});

/** Bytes that differ at the end of a stretch of time from what was there at its beginning. */
export const changedIn = ({ volumes, added }: Writing, from: Milliseconds, span: Milliseconds): Bytes =>
  volumes.reduce(
    (sum, volume) =>
      sum + (volume.activity ? changedWithin(volume.activity, shownBytes(volume), from, from + span) : 0),
    (added * span) / SECOND,
  );
