import { z } from 'zod';
import { MAX_BYTES } from '../units/bytes';

// What the fields of several kinds are made of. Bytes are integers; instants are the lab's simulated time in milliseconds.

export const id = z.string().min(1).max(64);
export const name = z.string().min(1).max(128);
export const bytes = z.number().int().min(0).max(MAX_BYTES);
export const count = z.number().int().min(0).max(MAX_BYTES);
export const instant = z.number().min(0);
export const upDown = z.enum(['up', 'down']);
export const tcpPort = z.number().int().min(1).max(65535);

/** From the fastest to the slowest. */
export const mediaClasses = ['ssd-nvme', 'ssd-sas', 'ssd-sata', 'hdd-15k', 'hdd-10k', 'hdd-7k'] as const;
export const priorities = ['low', 'normal', 'high'] as const;
export const transports = ['fc', 'iscsi', 'nvme-tcp'] as const;
/** How a host spreads I/O over the paths of a device. */
export const pathSelectors = ['failover', 'round-robin', 'queue-depth', 'service-time'] as const;
/** Which checksums an end offers, in order: none, CRC32C, or CRC32C and else none (RFC 7143 §13.1). */
export const digestOffers = ['none', 'crc32c', 'either'] as const;
export const accessLevels = ['read-write', 'read-only', 'none'] as const;

/** The two ends of a path: an interface of a host, a port of an array. */
export const pathEnds = z.object({ interface: id, port: id });
/** Runs of bytes `[start, end)`, ascending, whole pages, with room between them. */
export const byteRuns = z.array(z.tuple([bytes, bytes]));

/** 64-bit name of a Fibre Channel port or node (FC-FS Name_Identifier), 16 digits. */
export const wwn = z.string().regex(/^[0-9a-f]{16}$/);
/** A secret as the estate knows it: a keyed fingerprint. The secret itself lies sealed outside the estate. */
export const sealed = z.string().nullable().default(null);

/** An address with its prefix length, such as 10.40.1.21/24 or 2001:db8:40:1::21/64. */
export const ipAddress = z.object({ ip: z.string(), prefix: z.number().int().min(0).max(128) });

export type Transport = (typeof transports)[number];
export type PathSelector = (typeof pathSelectors)[number];
export type DigestOffer = (typeof digestOffers)[number];
export type AccessLevel = (typeof accessLevels)[number];
export type ByteRun = z.infer<typeof byteRuns>[number];
export type Priority = (typeof priorities)[number];
export type IpAddress = z.infer<typeof ipAddress>;
export type MediaClass = (typeof mediaClasses)[number];
