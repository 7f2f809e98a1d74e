/** Figures of links: FC-PI, FC-FS; RFC 791, 793 for TCP over Ethernet. Speeds in Gb/s as the port is named, rates in MB/s of 10⁶ bytes. */

/** Decoded line rate of n-gigabit Fibre Channel: 106.25·n MB/s. */
export const fcLineRate = (gigabits: number): number => 106.25 * gigabits;
/** What a link carries in practice: 100·n MB/s of FC payload; Ethernet's bits less the share of headers. */
export const fcPayloadRate = (gigabits: number): number => 100 * gigabits;

const ETHERNET_OVERHEAD = 38;
const IP_TCP_HEADERS = 40;
/** Share of the wire that TCP payload gets: (MTU − 40) / (MTU + 38) for IPv4 without options. */
export const tcpShare = (mtu: number): number => (mtu - IP_TCP_HEADERS) / (mtu + ETHERNET_OVERHEAD);
export const ethernetPayloadRate = (gigabits: number, mtu: number): number => (gigabits / 8) * 1000 * tcpShare(mtu);

/** Payload of a port in bytes a second (10⁶ a megabyte). */
export const capacityOf = (port: { kind: 'fc' | 'ethernet'; speed: number; mtu: number }): number =>
  1e6 * (port.kind === 'fc' ? fcPayloadRate(port.speed) : ethernetPayloadRate(port.speed, port.mtu));

const FRAME_OVERHEAD = 60;
export const FULL_PAYLOAD = 2112;
/** Microseconds of a frame on the wire: SOF 4, header 24, payload, CRC 4, EOF 4 and 24 idle. */
const frameTime = (payload: number, gigabits: number): number => (payload + FRAME_OVERHEAD) / fcLineRate(gigabits);
/** Round trip in fibre, microseconds a kilometre: 5 each way. */
const ROUND_TRIP_A_KM = 10;
const FEWEST_CREDITS = 2;

/**
 * Buffer-to-buffer credits that keep a link full: ⌈(10·km + extra) / frame time⌉ + 1, the one being received; at least 2.
 * `extra` is the round trip of equipment on the way in microseconds, `payload` the mean bytes of a frame.
 */
export function creditsNeeded(km: number, gigabits: number, payload = FULL_PAYLOAD, extra = 0): number {
  return Math.max(FEWEST_CREDITS, Math.ceil((ROUND_TRIP_A_KM * km + extra) / frameTime(payload, gigabits)) + 1);
}

/** Share of the line rate that so many credits allow, 0 to 1. */
export function creditShare(credits: number, km: number, gigabits: number, payload = FULL_PAYLOAD, extra = 0): number {
  const time = frameTime(payload, gigabits);
  return Math.min(1, (credits * time) / (ROUND_TRIP_A_KM * km + extra + time));
}

const fcSpeeds = [1, 2, 4, 8, 16, 32, 64];
/** A port runs at its own speed and two generations back. */
export const speedsOf = (gigabits: number): number[] => {
  const at = fcSpeeds.indexOf(gigabits);
  return at < 0 ? [gigabits] : fcSpeeds.slice(Math.max(0, at - 2), at + 1);
};
/** The highest speed both ends of a cable support, Gb/s; null where there is none. */
export const commonSpeed = (a: number, b: number): number | null => {
  const shared = speedsOf(a).filter((speed) => speedsOf(b).includes(speed));
  return shared.length === 0 ? null : Math.max(...shared);
};

/** Milliseconds that distance adds to one round trip. */
export const roundTripMs = (km: number): number => 0.01 * km;
