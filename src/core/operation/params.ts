import { z } from 'zod';

/** Yes or no, as JSON, YAML and forms write it. */
export const flag = z
  .union([z.boolean(), z.enum(['true', 'false'])])
  .transform((value) => value === true || value === 'true');

/** A size with its unit. */
export const sizeText = z.union([z.string(), z.number()]).transform(String);
