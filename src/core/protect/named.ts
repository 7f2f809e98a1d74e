import { z } from 'zod';
import { pick } from '../operation/form';

/** How operations name what they are about: a workload, or a volume of an array by itself. */
export const namedParams = {
  workload: z.string().optional().describe('All its volumes, as of one instant'),
  array: z.string().optional(),
  volume: z.string().optional().describe('Instead of a workload: a volume by itself'),
};

/** The same in a sheet. */
export const namedFields = { workload: pick('Workload'), array: pick('Or array'), volume: pick('Volume') } as const;
