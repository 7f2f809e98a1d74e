import { z } from 'zod';
import { byteRuns, bytes, instant } from './fields';

/** A named file of a volume's file system; its checksum follows its content. */
export const namedFile = z.object({
  path: z.string().min(1).max(255),
  size: bytes,
  writtenAt: instant,
  checksum: z.string().regex(/^[0-9a-f]{16}$/),
});
export type NamedFile = z.infer<typeof namedFile>;

/** A file system as it stands on a volume, whichever host has it mounted. */
export const fileImage = z.object({
  fileSystem: z.string(),
  size: bytes,
  used: bytes,
  free: byteRuns.default([]),
});
export type FileImage = z.infer<typeof fileImage>;
