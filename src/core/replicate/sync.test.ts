import { journalFill, journalSize } from './journal';
import { iopsCeiling, linkCredits, maxDistance, resync, syncBandwidth, syncWrite, type MirroredWrite } from './sync';

const value = <T>(found: { ok: true; value: T } | { ok: false; reason: string }): T => {
  if (!found.ok) throw new Error(found.reason);
  return found.value;
};
const reason = (found: { ok: boolean; reason?: string }) => (found.ok ? 'ok' : found.reason);
const write: MirroredWrite = {
  distanceKm: 38,
  routeFactor: 1.3,
  deviceOneWayS: 15e-6,
  linkBitsPerS: 10e9,
  framingOverhead: 0.05,
  ioBytes: 32_768,
  unsolicitedBytes: 8192,
  maxBurstBytes: 16_384,
  localWriteS: 250e-6,
  remoteWriteS: 280e-6,
  mode: 'parallel',
};

test('a mirrored write waits for light, handshakes and the other end', () => {
  const found = syncWrite(write);
  expect(found.rttS).toBeCloseTo(524e-6, 9);
  expect(found.handshakes).toBe(3);
  expect(found.serialS).toBeCloseTo(27.5e-6, 7);
  expect(found.remoteS).toBeCloseTo(1.88e-3, 6);
  expect(found.addedS).toBeCloseTo(1.63e-3, 6);
  expect(syncWrite({ ...write, mode: 'serial' }).addedS).toBeCloseTo(1.88e-3, 6);
  expect(syncWrite({ ...write, ioBytes: 4096 }).handshakes).toBe(1);
});

test('how far apart both ends may be', () => {
  const { distanceKm: _far, ...here } = write;
  const { km } = value(maxDistance({ ...here, maxAddedS: 2e-3 }));
  expect(km).toBeCloseTo(47.5, 1);
  expect(syncWrite({ ...write, distanceKm: km }).addedS).toBeCloseTo(2e-3, 12);
  expect(reason(maxDistance({ ...here, maxAddedS: 1e-5 }))).toBe('sync-latency-budget-too-small');
});

test('what a line needs', () => {
  expect(iopsCeiling({ outstanding: 16, latencyS: 1.9e-3 }).iops).toBeCloseTo(8421, 0);
  expect(linkCredits({ linkBitsPerS: 8e9, rttS: 0.62e-3, frameBytes: 2112 })).toEqual({
    inFlightBytes: 620_000,
    credits: 294,
  });
  const wish = { peakWriteBytesPerS: 240e6, framingOverhead: 0.06, maxUtilisation: 0.75, links: 3, linksLost: 1 };
  const found = value(syncBandwidth(wish));
  expect(found.totalBitsPerS / 1e9).toBeCloseTo(2.714, 3);
  expect(found.perLinkBitsPerS / 1e9).toBeCloseTo(1.357, 3);
  expect(reason(syncBandwidth({ ...wish, linksLost: 3 }))).toBe('sync-no-link-left');
});

test('a mirror becomes whole with what hosts leave of the line', () => {
  const wish = { dirtyBytes: 900e9, linkBytesPerS: 1.1e9, hostWriteBytesPerS: 200e6, wireRatio: 0.9 };
  expect(value(resync(wish)).seconds).toBeCloseTo(880.4, 1);
  expect(value(resync({ ...wish, throttleBytesPerS: 500e6 })).seconds).toBe(1620);
  expect(reason(resync({ ...wish, hostWriteBytesPerS: 2e9 }))).toBe('resync-no-bandwidth-left');
});

test('a log fills, and how large it must be', () => {
  const log = { capacityBytes: 200e9, usedBytes: 35e9, writeBytesPerS: 30e6, writesPerS: 2500, headerBytes: 512 };
  expect(journalFill(log).seconds).toBeCloseTo(5275, 0);
  expect(journalFill({ ...log, writeBytesPerS: 0, writesPerS: 0 }).seconds).toBeNull();
  expect(journalFill({ ...log, usedBytes: 300e9 }).seconds).toBe(0);
  const wish = {
    profile: [
      { fromS: 0, bytesPerS: 8e6, writesPerS: 1000 },
      { fromS: 7200, bytesPerS: 70e6, writesPerS: 5000 },
      { fromS: 10_800, bytesPerS: 8e6, writesPerS: 1000 },
    ],
    drainBytesPerS: 40e6,
    headerBytes: 512,
    outageS: 5400,
    safety: 1.25,
    horizonS: 86_400,
  };
  const found = value(journalSize(wish));
  expect(found.drainPeakBytes / 1e9).toBeCloseTo(117.2, 1);
  expect(found.outageBytes / 1e9).toBeCloseTo(276.5, 1);
  expect(found.minimumBytes / 1e9).toBeCloseTo(345.7, 1);
  expect(reason(journalSize({ ...wish, drainBytesPerS: 8e6 }))).toBe('journal-drain-below-average');
  // An outage longer than the profile has all of it, and more.
  expect(value(journalSize({ ...wish, outageS: 2 * 86_400 })).outageBytes).toBeCloseTo(
    2 * (72.56e6 * 3600 + 8.512e6 * 82_800),
    -3,
  );
});
