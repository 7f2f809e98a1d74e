import { z } from 'zod';
import { folded, pick, several, such, the } from '../operation/form';
import { raidLevels, rowOf, type Drive } from '../estate/entities';
import { changed, created } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { startedJob } from '../job/work';
import { inquire, type Inquiry } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { exactBytes, formatBytes, parseBytes, type Bytes } from '../units/bytes';
import { formatDuration, SECOND, type Milliseconds } from '../units/duration';
import { DEFAULT_CHUNK, MAX_CHUNK, MIN_CHUNK, USUAL_LOAD } from './choices';
import { chooseSeed } from './distributed';
import { foretellGroup } from './create-foretell';
import { geometry, levelFigures, levelText, shapeFields, type Geometry, type Shape } from './geometry';
import { mediaFigures, slowestOf } from './media';
import { checkMembers, memberNotes } from './members';
import { backgroundShare, spareUnfit } from './rebuild';
import { needOf } from './tend';
import { geometryRefusal, wishOf } from './wish';

const schema = z.object({
  array: z.string(),
  name: z.string(),
  level: z.enum(raidLevels),
  drives: z.array(z.string()).describe('Members as enclosure:slot, in stripe order'),
  chunk: z
    .string()
    .default(DEFAULT_CHUNK)
    .describe('Bytes of one drive in a stripe: a power of two from 16 KiB to 1 MiB'),
  copies: z.coerce.number().int().optional().describe('Of level 10: copies of every strip'),
  legs: z.coerce.number().int().optional().describe('Of levels 50 and 60; without it legs of about eight drives'),
  stripe: z
    .string()
    .regex(/^\d+\s*\+\s*\d+$/, 'write data and parity strips as 8+2')
    .optional()
    .describe('Of the distributed level: data and parity strips, such as 8+2'),
  spareColumns: z.coerce
    .number()
    .int()
    .min(1)
    .optional()
    .describe("Of the distributed level: drives' worth of spare space"),
  spares: z.array(z.string()).default([]).describe('Drives kept as spares for this group alone'),
  mixed: flag.default(false).describe('Agrees to classes of one medium being mixed'),
});
export type GroupParams = z.output<typeof schema>;

/** Time to write parity or copies over a whole new group: the slowest member's share of its rate. Level 0 has none to write. */
export function initialiseRate(drives: readonly Drive[]): number {
  const media = mediaFigures[slowestOf(drives.map((drive) => drive.media))];
  return media.writeMBps * 1e6 * backgroundShare('normal', USUAL_LOAD);
}

export const initialiseTime = (shape: Shape, memberSize: Bytes, drives: readonly Drive[]): Milliseconds =>
  shape.copies === 1 && shape.parity === 0 ? 0 : Math.ceil(memberSize / initialiseRate(drives)) * SECOND;

export function chunkOf(asks: Inquiry, text: string): Bytes | undefined {
  const subject = { kind: 'raidGroup', name: text } as const;
  const chunk = asks.value(parseBytes(text), 'chunk', subject);
  if (chunk === undefined) return undefined;
  if (chunk >= MIN_CHUNK && chunk <= MAX_CHUNK && Number.isInteger(Math.log2(chunk))) return chunk;
  asks.refuse({
    code: 'chunk-odd',
    field: 'chunk',
    subject,
    message: `A chunk of ${formatBytes(chunk)} cannot be used.`,
    mend: 'Choose a power of two from 16 KiB to 1 MiB, such as 64 KiB.',
  });
  return undefined;
}

export const raidGroupCreate: OperationType<GroupParams> = {
  kind: 'raid-group.create',
  verb: 'Carve a RAID group',
  summary: 'Puts free drives of one array under a RAID level.',
  schema,
  form: {
    columns: [],
    fields: {
      array: the.array,
      drives: the.drives,
      level: { label: 'Level', control: 'levels' },
      name: 'Name',
      chunk: pick('Chunk'),
      spares: several('Own spares'),
      legs: folded('Legs'),
      copies: folded('Copies'),
      stripe: folded(such('Stripe', '8+2')),
      spareColumns: folded('Spare space, drives'),
      mixed: folded({ label: 'Mixed classes', control: 'switch' }),
    },
    lens: [
      {
        name: '$load',
        label: 'Busy with hosts',
        control: 'slider',
        range: { from: 0, to: 100, step: 5, unit: '%', start: 30 },
      },
      { name: '$reads', label: 'Reads', control: 'slider', range: { from: 0, to: 100, step: 5, unit: '%', start: 70 } },
      { name: '$ioSize', label: 'Size of one I/O', control: 'text', placeholder: '8 KiB' },
    ],
  },
  title: (p) =>
    `Carve RAID group ${p.name} on ${p.array}: ${levelFigures[p.level].label} over ${p.drives.length} drives`,
  units: (p) => [p],

  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const name = array && asks.freeName('raidGroup', p.name, array);
    const chunk = chunkOf(asks, p.chunk);
    const drives = array ? p.drives.flatMap((ref) => asks.drive(ref, 'drives', array) ?? []) : [];
    const spares = array ? p.spares.flatMap((ref) => asks.drive(ref, 'spares', array) ?? []) : [];
    checkMembers(view, asks, drives, p.mixed);
    const wish = wishOf(p);
    const shape =
      chunk && drives.length === p.drives.length
        ? geometry(
            wish,
            drives.map((drive) => drive.capacity),
            chunk,
          )
        : undefined;
    if (typeof shape === 'string')
      asks.refuse({
        code: shape,
        field:
          shape === 'drive-too-small' || shape === 'too-many-drives'
            ? 'drives'
            : shape.startsWith('stripe-')
              ? 'stripe'
              : 'level',
        subject: { kind: 'raidGroup', name: p.name },
        ...geometryRefusal(shape, wish, drives.length),
      });
    if (asks.refusals.length > 0 || !array || !name || !chunk || !shape || typeof shape === 'string')
      return refused(asks.refusals);

    const id = context.newId('raidGroup');
    const takes = initialiseTime(shape, shape.memberSize, drives);
    const group = rowOf('raidGroup', {
      id,
      name,
      array: array.id,
      level: p.level,
      chunk,
      drives: drives.map((drive) => drive.id),
      memberSize: shape.memberSize,
      usable: shape.usable,
      pool: null,
      ...shapeFields(shape),
      seed: chooseSeed(shape),
      scrubbedAt: context.now,
    });
    const effects = [
      created('raidGroup', group),
      ...drives.map((drive) => changed('drive', drive, { raidGroup: id, holdsData: true })),
    ];
    const overlay = new Overlay(view);
    overlay.apply(effects);
    for (const spare of spares) {
      const name = p.spares[spares.indexOf(spare)]!;
      const subject = { kind: 'drive', id: spare.id, name } as const;
      const why = drives.includes(spare)
        ? { code: 'drive-twice', why: 'is a member and a spare at once' }
        : spare.spare !== 'no'
          ? { code: 'drive-is-spare', why: 'is kept as a spare already' }
          : spareUnfit(spare, needOf(overlay, group, 0));
      if (why)
        asks.refuse({
          code: why.code,
          field: 'spares',
          subject,
          message: `Drive ${name} cannot stand by for ${p.name}: it ${why.why}.`,
          mend: 'Choose a free drive of the same kind.',
        });
      effects.push(changed('drive', spare, { spare: 'dedicated', spareGroup: id }));
    }
    if (asks.refusals.length > 0) return refused(asks.refusals);
    if (takes > 0)
      effects.push(
        created(
          'job',
          startedJob(
            {
              id: context.newId('job'),
              kind: 'raid-initialise',
              array: array.id,
              raidGroup: id,
              total: shape.memberSize,
              rate: initialiseRate(drives),
            },
            context.now,
          ),
        ),
      );
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Form ${name}: ${levelText(shape)}, ${formatBytes(shape.usable)} usable${takes > 0 ? `; initialising takes ${formatDuration(takes)}, usable at once` : ''}`,
      takes: 5 * SECOND,
      effects,
      notes: [...memberNotes(view, drives, shape.survives, legWidth(shape)), ...shapeNotes(shape, chunk)],
    });
  },

  foretell: foretellGroup,
};

/** Drives among which the tolerated failures may fall. */
export const legWidth = (shape: Shape): number => (shape.level === 'distributed' ? shape.drives : shape.width);

function shapeNotes(shape: Geometry, chunk: Bytes): string[] {
  const said: string[] = [];
  if (shape.parity > 0 && !Number.isInteger(Math.log2(shape.data)))
    said.push(
      `A full stripe is ${exactBytes(chunk * shape.data)}: extents, which are powers of two, will straddle stripes. A power of two of data drives avoids that.`,
    );
  if (shape.level === 'raid0') said.push('It survives no failure: one lost drive loses all.');
  return said;
}
