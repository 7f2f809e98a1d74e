import { z } from 'zod';
import { id, name, upDown } from './fields';
import { kind, to, type RowOf } from './kind';

/** A line between two sites, which replication shares. */
export const siteLinkKind = kind({
  words: ['link between sites', 'links between sites'],
  prefix: 'line',
  path: 'site-links',
  row: z.object({
    id,
    name,
    /** The sites at its ends. */
    sites: z.array(id).length(2),
    bitsPerS: z.number().positive().max(1e13),
    /** There and back, milliseconds. */
    rtt: z.number().min(0).max(10_000),
    /** Length of its route, km. */
    km: z.number().min(0).max(40_000).default(0),
    /** Share of segments that are lost. */
    loss: z.number().min(0).max(0.5).default(0),
    /** What replication may take of it by day and by night, bytes a second; null for all of it. */
    dayCap: z.number().positive().nullable().default(null),
    nightCap: z.number().positive().nullable().default(null),
    state: upDown.default('up'),
    /** It brings through less than it should, and takes longer; or it loses segments. */
    slow: z.boolean().default(false),
    lossy: z.boolean().default(false),
    /** Inter-switch links that run over it: they fall with it, and what hosts send by them goes first. */
    isls: z.array(id).default([]),
    /** Networks that run over it between its sites: what hosts at one send by them to arrays at the other falls with it, and goes first. */
    networks: z.array(id).default([]),
    notes: z.string().default(''),
  }),
  refers: {
    sites: to('site', { by: 'site' }),
    isls: to('isl', { by: 'isl' }),
    networks: to('network', { by: 'network' }),
  },
  named: '',
  searched: {},
});
export type SiteLink = RowOf<typeof siteLinkKind>;
