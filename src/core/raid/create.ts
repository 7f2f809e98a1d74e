import { z } from 'zod';
import { raidLevels, type ArrayRow, type Drive, type RaidLevel } from '../estate/entities';
import { changed, created } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { arrayChoices, byName, draftArray, draftList, draftText, nextName } from '../operation/draft';
import { driveRef, inquire, lookUpDrive, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Comparison, type Foretold, type OperationType } from '../operation/operation';
import { exactBytes, formatBytes, formatDecimalBytes, KIB, parseBytes, type Bytes } from '../units/bytes';
import { formatDuration, SECOND, type Milliseconds } from '../units/duration';
import {
  DEFAULT_CHUNK,
  geometry,
  levelFigures,
  MAX_CHUNK,
  MIN_CHUNK,
  widthText,
  type GeometryFailure,
} from './geometry';
import { BUILD_SHARE, mediaFigures } from './media';

const schema = z.object({
  array: z.string(),
  name: z.string(),
  level: z.enum(raidLevels),
  drives: z.array(z.string()).describe('Members as enclosure:slot, in stripe order'),
  chunk: z
    .string()
    .default(DEFAULT_CHUNK)
    .describe('Bytes of one drive in a stripe: a power of two from 16 KiB to 1 MiB'),
});
type Params = z.output<typeof schema>;

/** Time to write parity or copies over a whole new group: the slowest member's share of its rate. Level 0 has none to write. */
export function initialiseTime(level: RaidLevel, memberSize: Bytes, drives: readonly Drive[]): Milliseconds {
  if (level === 'raid0') return 0;
  const rate = Math.min(...drives.map((drive) => mediaFigures[drive.media].writeMBps)) * 1e6 * BUILD_SHARE;
  return Math.ceil(memberSize / rate) * SECOND;
}

function chunkOf(asks: Inquiry, text: string): Bytes | undefined {
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

/** Why a drive cannot join a group now, or null. */
export function unfit(view: EstateView, drive: Drive): { code: string; why: string; mend: string } | null {
  if (drive.raidGroup) {
    const group = view.table('raidGroup').get(drive.raidGroup);
    return {
      code: 'drive-in-use',
      why: `is a member of ${group?.name ?? 'another group'}`,
      mend: 'Choose a free drive.',
    };
  }
  if (drive.state === 'failed')
    return {
      code: 'drive-failed',
      why: 'has failed',
      mend: 'Choose a drive that stands, or clear the fault in the lab.',
    };
  return null;
}

function checkMembers(view: EstateView, asks: Inquiry, drives: readonly Drive[]): void {
  const seen = new Set<string>();
  for (const drive of drives) {
    const name = driveRef(view, drive);
    const subject = { kind: 'drive', id: drive.id, name } as const;
    const problem = unfit(view, drive);
    if (problem)
      asks.refuse({
        code: problem.code,
        field: 'drives',
        subject,
        message: `Drive ${name} ${problem.why}.`,
        mend: problem.mend,
      });
    if (seen.has(drive.id))
      asks.refuse({
        code: 'drive-twice',
        field: 'drives',
        subject,
        message: `Drive ${name} is named twice.`,
        mend: 'Name each drive once.',
      });
    seen.add(drive.id);
  }
  const [first] = drives;
  const other = first && drives.find((drive) => mediaFigures[drive.media].flash !== mediaFigures[first.media].flash);
  if (first && other)
    asks.refuse({
      code: 'drive-medium-mix',
      field: 'drives',
      subject: { kind: 'drive', id: other.id, name: driveRef(view, other) },
      message: `Drive ${driveRef(view, first)} is ${mediaFigures[first.media].label}, ${driveRef(view, other)} is ${mediaFigures[other.media].label}: a group takes one medium.`,
      mend: 'Choose flash alone or disk alone.',
    });
  const sector = first && drives.find((drive) => drive.sector !== first.sector);
  if (first && sector)
    asks.refuse({
      code: 'drive-sector-mix',
      field: 'drives',
      subject: { kind: 'drive', id: sector.id, name: driveRef(view, sector) },
      message: `Drive ${driveRef(view, first)} has sectors of ${first.sector} bytes, ${driveRef(view, sector)} of ${sector.sector}.`,
      mend: 'Choose drives of one sector size.',
    });
}

function geometryRefusal(failure: GeometryFailure, level: RaidLevel, count: number): { message: string; mend: string } {
  const { label, minDrives } = levelFigures[level];
  if (failure === 'too-few-drives')
    return {
      message: `${label} needs at least ${minDrives} drives; ${count} ${count === 1 ? 'is' : 'are'} chosen.`,
      mend: `Choose ${minDrives - count} more, or a level that takes fewer.`,
    };
  if (failure === 'drive-too-small')
    return { message: 'The smallest drive has no room left after its reserve.', mend: 'Leave it out.' };
  return { message: `${label} pairs its drives; ${count} cannot be paired.`, mend: 'Add one drive or leave one out.' };
}

function notes(view: EstateView, drives: readonly Drive[], stranded: Bytes, total: Bytes): string[] {
  const said: string[] = [];
  if (stranded > 0.05 * total)
    said.push(
      `${formatBytes(stranded)} of the larger drives cannot be used, since every member gives as much as the smallest.`,
    );
  const slowest = drives.reduce((a, b) => (mediaFigures[b.media].rank > mediaFigures[a.media].rank ? b : a));
  if (drives.some((drive) => drive.media !== slowest.media))
    said.push(`Classes are mixed: the group runs at the speed of ${mediaFigures[slowest.media].label}.`);
  const enclosures = new Set(drives.map((drive) => drive.enclosure));
  if (enclosures.size === 1) {
    const number = view.table('enclosure').get(drives[0]!.enclosure)?.number;
    said.push(`All ${drives.length} stand in enclosure ${number}: lose the enclosure, lose the group.`);
  }
  return said;
}

export const raidGroupCreate: OperationType<Params> = {
  kind: 'raid-group.create',
  verb: 'Carve a RAID group',
  summary: 'Puts free drives of one array under a RAID level.',
  schema,
  title: (p) =>
    `Carve RAID group ${p.name} on ${p.array}: ${levelFigures[p.level].label} over ${p.drives.length} drives`,
  units: (p) => [p],

  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const name = array && asks.freeName('raidGroup', p.name, array);
    const chunk = chunkOf(asks, p.chunk);
    const drives = array ? p.drives.flatMap((ref) => asks.drive(ref, 'drives', array) ?? []) : [];
    checkMembers(view, asks, drives);
    const shape =
      chunk && drives.length === p.drives.length
        ? geometry(
            p.level,
            drives.map((drive) => drive.capacity),
            chunk,
          )
        : undefined;
    if (typeof shape === 'string')
      asks.refuse({
        code: shape,
        field: shape === 'drive-too-small' ? 'drives' : 'level',
        subject: { kind: 'raidGroup', name: p.name },
        ...geometryRefusal(shape, p.level, drives.length),
      });
    if (asks.refusals.length > 0 || !array || !name || !chunk || !shape || typeof shape === 'string')
      return refused(asks.refusals);

    const id = context.newId('raidGroup');
    const takes = initialiseTime(p.level, shape.memberSize, drives);
    const group = {
      id,
      name,
      array: array.id,
      level: p.level,
      chunk,
      drives: drives.map((drive) => drive.id),
      memberSize: shape.memberSize,
      usable: shape.usable,
      pool: null,
    };
    const effects = [created('raidGroup', group), ...drives.map((drive) => changed('drive', drive, { raidGroup: id }))];
    if (takes > 0)
      effects.push(
        created('job', {
          id: context.newId('job'),
          kind: 'raid-initialise',
          array: array.id,
          raidGroup: id,
          drive: null,
          startedAt: context.now,
          finishesAt: context.now + takes,
        }),
      );
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Form ${name}: ${levelFigures[p.level].label} ${widthText(p.level, drives.length)}, ${formatBytes(shape.usable)} usable${takes > 0 ? `; initialising takes ${formatDuration(takes)}, usable at once` : ''}`,
      takes: 5 * SECOND,
      effects,
      notes: notes(view, drives, shape.stranded, shape.usable),
    });
  },

  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = {
      array: { choices: arrayChoices(view) },
      level: {},
      drives: {},
      chunk: {},
      name: {},
    };
    fields.chunk!.choices = ['16 KiB', '32 KiB', '64 KiB', '128 KiB', '256 KiB', '512 KiB', '1 MiB'].map((value) => ({
      value,
      label: value,
    }));
    fields.chunk!.suggested = DEFAULT_CHUNK;
    fields.chunk!.says = 'Bytes of one drive in a stripe.';
    fields.level!.says = 'Tick drives to compare.';
    if (!array) return { fields };
    const all = view.table('drive').by('array', array.id);
    const free = all.filter((drive) => !unfit(view, drive));
    fields.array!.says = `${all.length} drives, ${free.length} free.`;
    fields.name!.suggested = nextName('rg', view.table('raidGroup').by('array', array.id));
    fields.name!.says = `Unique on ${array.name}.`;
    const drives = draftList(draft, 'drives').flatMap((ref) => lookUpDrive(view, ref, array.id) ?? []);
    fields.drives!.choices = driveChoices(view, array);
    const chunk = parseBytes(draftText(draft, 'chunk') || DEFAULT_CHUNK);
    if (drives.length === 0) fields.drives!.says = `${free.length} free drives to tick.`;
    else {
      const raw = drives.reduce((sum, drive) => sum + drive.capacity, 0);
      const small = drives.map((drive) => drive.capacity).sort((a, b) => a - b)[0]!;
      const mixed = drives.some((drive) => drive.capacity !== small);
      const [shape] = mixed
        ? [
            geometry(
              'raid0',
              drives.map((drive) => drive.capacity),
              64 * KIB,
            ),
          ]
        : [undefined];
      const lost =
        shape && typeof shape !== 'string' ? ` ${formatBytes(shape.stranded)} of the larger ones stay unused.` : '';
      fields.drives!.says = `${drives.length} ticked, ${formatDecimalBytes(raw)} raw.${mixed ? ` Sizes differ: each gives as much as the smallest, ${formatDecimalBytes(small)}.${lost}` : ''}`;
    }
    if (chunk.ok) {
      const comparison = compareLevels(drives, chunk.value);
      const level = draftText(draft, 'level') as RaidLevel;
      const shape =
        level in levelFigures
          ? geometry(
              level,
              drives.map((drive) => drive.capacity),
              chunk.value,
            )
          : undefined;
      if (shape && typeof shape !== 'string') {
        fields.level!.says = `${formatBytes(shape.usable)} usable; survives ${shape.survives} lost ${shape.survives === 1 ? 'drive' : 'drives'}.`;
        fields.chunk!.says = `A full stripe is ${exactBytes(chunk.value * shape.data)}: ${shape.data} × ${exactBytes(chunk.value)}.`;
      }
      return { fields, comparison };
    }
    return { fields };
  },
};

/** Every drive of the array with what speaks against it, in the order of their slots. */
export function driveChoices(view: EstateView, array: ArrayRow) {
  return view
    .table('drive')
    .by('array', array.id)
    .map((drive) => ({ drive, name: driveRef(view, drive) }))
    .sort((a, b) => byName(a, b))
    .map(({ drive, name }) => {
      const problem = unfit(view, drive);
      return {
        value: name,
        label: `${name} ${mediaFigures[drive.media].label} ${formatDecimalBytes(drive.capacity)}`,
        ...(problem ? { unfit: problem.why } : {}),
      };
    });
}

/** The levels side by side for the ticked drives. */
function compareLevels(drives: readonly Drive[], chunk: Bytes): Comparison {
  const raw = drives.reduce((sum, drive) => sum + drive.capacity, 0);
  return {
    field: 'level',
    rows: ['Usable', 'Share of raw', 'Lost drives survived', 'Initialising'],
    columns: raidLevels.map((level) => {
      const shape = geometry(
        level,
        drives.map((drive) => drive.capacity),
        chunk,
      );
      const { label } = levelFigures[level];
      if (typeof shape === 'string')
        return {
          value: level,
          label,
          sketch: { data: 0, parity: 0, mirror: false },
          cells: ['–', '–', '–', '–'],
          unfit: geometryRefusal(shape, level, drives.length).message,
        };
      const takes = initialiseTime(level, shape.memberSize, drives);
      const best = shape.survivesAtBest > shape.survives ? `, at best ${shape.survivesAtBest}` : '';
      return {
        value: level,
        label: `${label} ${widthText(level, drives.length)}`,
        sketch: { data: shape.data, parity: shape.redundancy, mirror: levelFigures[level].copies !== 1 },
        cells: [
          formatBytes(shape.usable),
          `${Math.floor((shape.usable / raw) * 100)} %`,
          `${shape.survives}${best}`,
          takes > 0 ? formatDuration(takes) : 'none',
        ],
      };
    }),
  };
}
