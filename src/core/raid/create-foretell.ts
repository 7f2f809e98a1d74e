import { raidLevels, type Drive, type RaidLevel } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { enclosureOf } from '../estate/relations';
import { arrayChoices, draftArray, draftList, draftNumber, draftText, nextName } from '../operation/draft';
import { driveRef, lookUpDrive } from '../operation/inquiry';
import type { Comparison, Draft, Foretold, LayoutSketch } from '../operation/operation';
import { exactBytes, formatBytes, formatDecimalBytes, KIB, parseBytes, type Bytes } from '../units/bytes';
import { formatDuration, HOUR } from '../units/duration';
import { formatChance, formatCount } from '../units/figures';
import { formatRate } from '../units/rate';
import { stripeStrips } from './address-map';
import { chooseDrives } from './choose-drives';
import { DEFAULT_CHUNK, REPLACE_HOURS, STRANDED_SHARE, USUAL_LOAD, WIDE, WIDE_SINGLE } from './choices';
import { advise, compareLevels, type Goal, type LevelCase, type LevelResult, type Use } from './compare';
import { spareDrives } from './distributed';
import { frontEndCap } from './front-end-cap';
import {
  geometry,
  levelFigures,
  levelText,
  sketchOf,
  survivalOf,
  tileOf,
  type Geometry,
  type Shape,
  type ShapeWish,
} from './geometry';
import { mediaFigures } from './media';
import { driveChoices, fatalEnclosure, strandedOf, unfit } from './members';
import { textbookPenalty } from './performance';
import { sparesAdvised } from './rebuild';
import { geometryRefusal, wishOf } from './wish';

/** How the administrator means to use the group; fields that begin with $ are of the form alone. */
export function usageOf(draft: Draft, spare: boolean): Use {
  const size = parseBytes(draftText(draft, '$ioSize') || '8 KiB');
  return {
    load: Math.min(1, Math.max(0, draftNumber(draft, '$load', USUAL_LOAD * 100) / 100)),
    priority: 'normal',
    reads: Math.min(1, Math.max(0, draftNumber(draft, '$reads', 70) / 100)),
    ioSize: size.ok ? Math.min(Math.max(size.value, 512), 4096 * KIB) : 8 * KIB,
    replaceHours: spare ? 0 : REPLACE_HOURS,
  };
}

function wishesOf(draft: Draft): Partial<Record<RaidLevel, Omit<ShapeWish, 'level'>>> {
  const optional = (field: string) => {
    const value = draftNumber(draft, field, NaN);
    return Number.isInteger(value) && value > 0 ? value : undefined;
  };
  const stripe = draftText(draft, 'stripe');
  const given = {
    copies: optional('copies'),
    legs: optional('legs'),
    spareColumns: optional('spareColumns'),
    ...(/^\d+\s*\+\s*\d+$/.test(stripe) ? { stripe } : {}),
  };
  return Object.fromEntries(raidLevels.map((level) => [level, wishOf({ level, ...given })]));
}

export function foretellGroup(view: EstateView, draft: Draft): Foretold {
  const array = draftArray(view, draft);
  const fields: Foretold['fields'] = {
    array: { choices: arrayChoices(view) },
    level: {},
    drives: {},
    chunk: {},
    name: {},
    copies: {},
    legs: {},
    stripe: {},
    spareColumns: {},
    spares: {},
    mixed: {},
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
  fields.drives!.says = drives.length === 0 ? `${free.length} free drives to tick.` : ticked(drives);

  const spares = draftList(draft, 'spares').flatMap((ref) => lookUpDrive(view, ref, array.id) ?? []);
  const rest = free.filter((drive) => !drives.includes(drive));
  const shared = all.filter(
    (drive) => drive.spare === 'shared' && drive.state === 'ok' && drive.media === drives[0]?.media,
  );
  fields.spares!.choices = rest
    .filter((drive) => !drives[0] || drive.media === drives[0].media)
    .map((drive) => ({
      value: driveRef(view, drive),
      label: `${driveRef(view, drive)} ${formatDecimalBytes(drive.capacity)}`,
    }));
  fields.spares!.says = spareWords(all, drives, spares, shared.length);
  fields.mixed!.says = 'Classes of one medium in one group: it runs at the speed of the slowest.';

  const wanted = Math.round(draftNumber(draft, '$count', drives.length || 8));
  const choice = chooseDrives(free, wanted, drives[0]);
  const chosen = choice
    ? {
        drives: choice.drives.map((drive) => driveRef(view, drive)),
        why: `${choice.drives.length} of ${formatDecimalBytes(choice.drives[0]!.capacity)} ${mediaFigures[choice.drives[0]!.media].label}, at most ${choice.together} in one enclosure; ${choice.spares} of the kind stay free.`,
      }
    : undefined;

  const chunk = parseBytes(draftText(draft, 'chunk') || DEFAULT_CHUNK);
  if (!chunk.ok) return { fields, ...(chosen ? { chosen } : {}) };
  const cap = array ? frontEndCap(view, array.id) : null;
  const use = { ...usageOf(draft, spares.length + shared.length > 0), cap };
  const cases = compareLevels(drives, chunk.value, use, wishesOf(draft));
  const level = draftText(draft, 'level') as RaidLevel;
  const at = cases.find((one) => one.level === level);
  if (at && 'shape' in at) describe(view, fields, at, chunk.value, drives);
  return {
    fields,
    comparison: comparison(cases, drives.length, wishesOf(draft)),
    ...(at && 'shape' in at
      ? {
          layout: layoutSketch(
            at.shape,
            1,
            drives.map((drive) => driveRef(view, drive)),
          ),
        }
      : {}),
    ...(chosen ? { chosen } : {}),
  };
}

function ticked(drives: readonly Drive[]): string {
  const raw = drives.reduce((sum, drive) => sum + drive.capacity, 0);
  const base = `${drives.length} ticked, ${formatDecimalBytes(raw)} raw.`;
  const small = Math.min(...drives.map((drive) => drive.capacity));
  if (drives.every((drive) => drive.capacity === small)) return base;
  const { stranded, total } = strandedOf(drives);
  const split = betterSplit(drives);
  return `${base} Sizes differ: each gives as much as the smallest, ${formatDecimalBytes(small)}. ${formatBytes(stranded)} of the larger ones stay unused${stranded > STRANDED_SHARE * total ? `, ${Math.ceil((stranded / total) * 100)} % of what they could give.` : '.'}${split ? ` ${split}` : ''}`;
}

/** Two groups by size, where they would give more than one. */
function betterSplit(drives: readonly Drive[]): string | null {
  const sizes = [...new Set(drives.map((drive) => drive.capacity))].sort((a, b) => a - b);
  const usable = (some: readonly Drive[]) => {
    const shape = geometry(
      'raid6',
      some.map((drive) => drive.capacity),
      64 * KIB,
    );
    return typeof shape === 'string' ? 0 : shape.usable;
  };
  const whole = usable(drives);
  let best = { gain: 0, size: 0, small: 0 };
  for (const size of sizes.slice(1)) {
    const small = drives.filter((drive) => drive.capacity < size);
    const large = drives.filter((drive) => drive.capacity >= size);
    const [a, b] = [usable(small), usable(large)];
    if (a > 0 && b > 0 && a + b - whole > best.gain) best = { gain: a + b - whole, size, small: small.length };
  }
  return best.gain > 0
    ? `Two groups of level 6, ${best.small} and ${drives.length - best.small} drives by size, would give ${formatBytes(best.gain)} more.`
    : null;
}

function spareWords(all: readonly Drive[], drives: readonly Drive[], spares: readonly Drive[], shared: number): string {
  const [first] = drives;
  if (!first) return 'Drives that stand in at once when a member fails.';
  const alike = all.filter(
    (drive) => drive.media === first.media && (drive.raidGroup || drives.includes(drive)),
  ).length;
  const advised = sparesAdvised(alike, mediaFigures[first.media].annualFailureRate);
  const have = spares.length + shared;
  return `${shared} shared ${shared === 1 ? 'spare' : 'spares'} of this class${spares.length > 0 ? `, ${spares.length} for this group alone` : ''}. ${advised} advised for ${alike} drives${have < advised ? ': one failure more would wait for a delivery' : ''}.`;
}

function describe(
  view: EstateView,
  fields: Foretold['fields'],
  at: LevelCase,
  chunk: Bytes,
  drives: readonly Drive[],
): void {
  const { shape } = at;
  const two = shape.survives < 2 && shape.survivesAtBest >= 2 ? survivalOf(shape, 2) : null;
  const lost = fatalEnclosure(drives, shape.survives, shape.level === 'distributed' ? shape.drives : shape.width);
  const wide = shape.parity > 0 && shape.width > (shape.parity === 1 ? WIDE_SINGLE : WIDE);
  fields.level!.says = [
    `${levelText(shape)}: ${formatBytes(shape.usable)} usable; survives ${shape.survives} lost ${shape.survives === 1 ? 'drive' : 'drives'}.`,
    two === null ? '' : `A second failure is survived in ${Math.floor(two * 100)} of 100 cases.`,
    at.readError >= 0.05 && shape.survives === 1
      ? `Its rebuild meets a read error with ${Math.ceil(at.readError * 100)} %.`
      : '',
    lost ? `Enclosure ${enclosureOf(view, lost).number} takes it down.` : 'No single enclosure takes it down.',
    wide ? `${shape.width} drives in a stripe are many.` : '',
    at.capped
      ? `Its drives could give ${formatRate(at.capped.drives)}; the ${at.capped.by} carry ${formatRate(at.bytesPerSecond)}.`
      : '',
  ]
    .filter(Boolean)
    .join(' ');
  fields.chunk!.says = `A full stripe is ${exactBytes(chunk * shape.data)}: ${shape.data} × ${exactBytes(chunk)}. A small write costs ${at.penalty} drive I/Os${textbookPenalty(shape) > at.penalty ? `, ${textbookPenalty(shape)} in wider groups` : ''}.`;
  if (shape.copies > 1) fields.copies!.says = `${shape.legs} sets of ${shape.copies}.`;
  fields.legs!.says =
    shape.legs > 1 && shape.parity > 0
      ? `${shape.legs} legs of ${shape.width} drives, ${shape.parity} of them parity.`
      : 'For levels 50 and 60.';
  fields.copies!.says ??= 'For level 10.';
  fields.stripe!.says = fields.spareColumns!.says = 'For the distributed level.';
  if (shape.level === 'distributed') {
    const { rows, stripes } = tileOf(shape);
    fields.stripe!.says = `${shape.data} data and ${shape.parity} parity strips, dealt over all drives: ${stripes} stripes in tiles of ${rows} rows.`;
    fields.spareColumns!.says = `Room of ${shape.spareColumns} ${shape.spareColumns === 1 ? 'drive' : 'drives'} is kept on all of them, so a rebuild writes to all.`;
  }
}

const columns: Comparison['columns'] = [
  { key: 'usable', label: 'Usable', better: 'more', bar: true },
  { key: 'share', label: 'Of raw', better: 'more' },
  { key: 'survives', label: 'Survives', better: 'more' },
  { key: 'rebuild', label: 'Rebuild', better: 'less' },
  { key: 'loss', label: 'Loss in a year', better: 'less' },
  { key: 'iops', label: 'IO/s', better: 'more', bar: true },
  { key: 'rate', label: 'MB/s', better: 'more' },
  { key: 'degraded', label: 'IO/s, rebuilding', better: 'more' },
  { key: 'penalty', label: 'IO per write', better: 'less' },
];

/** The levels side by side for the ticked drives. */
function comparison(
  cases: readonly LevelResult[],
  count: number,
  wishes: Partial<Record<RaidLevel, Omit<ShapeWish, 'level'>>>,
): Comparison {
  return {
    field: 'level',
    columns,
    lines: cases.map((one) => {
      const { label } = levelFigures[one.level];
      if ('failure' in one)
        return {
          value: one.level,
          label,
          sketch: { data: 0, parity: 0, mirror: false },
          cells: columns.map(() => ({ text: '–', value: NaN })),
          unfit: geometryRefusal(one.failure, { level: one.level, ...wishes[one.level] }, count).message,
        };
      return { value: one.level, label: levelText(one.shape), sketch: sketchOf(one.shape), cells: cellsOf(one) };
    }),
    advice: (['room', 'speed', 'safety'] as const).flatMap((goal) => adviceFor(cases, goal)),
  };
}

function cellsOf(one: LevelCase): Comparison['lines'][number]['cells'] {
  const { shape } = one;
  const best = shape.survivesAtBest > shape.survives ? `, at best ${shape.survivesAtBest}` : '';
  return [
    { text: formatBytes(shape.usable), value: shape.usable },
    { text: `${Math.floor(one.share * 100)} %`, value: one.share },
    { text: `${shape.survives}${best}`, value: shape.survives + shape.survivesAtBest / 1000 },
    one.rebuild > 0 ? { text: formatDuration(one.rebuild), value: one.rebuild } : { text: 'none', value: Infinity },
    { text: formatChance(one.loss), value: one.loss },
    { text: formatCount(one.iops), value: one.iops },
    { text: formatCount(one.bytesPerSecond / 1e6), value: one.bytesPerSecond },
    one.degradedIops > 0
      ? { text: formatCount(one.degradedIops), value: one.degradedIops }
      : { text: 'none', value: 0 },
    { text: String(one.penalty), value: one.penalty },
  ];
}

const goalWords: Record<Goal, string> = { room: 'Most room', speed: 'Most speed', safety: 'Safest' };

function adviceFor(cases: readonly LevelResult[], goal: Goal): Comparison['advice'] {
  const found = advise(cases, goal);
  if (!found) return [];
  const { best } = found;
  const name = levelText(best.shape);
  const why = {
    room: `${name} gives ${formatBytes(best.shape.usable)}, the most of all whose loss is under 1 in 1000 a year.`,
    speed: `${name} serves ${formatCount(best.iops)} IO/s of the chosen mix, the most of all whose loss is under 1 in 1000 a year.`,
    safety: `${name} loses data with a chance of ${formatChance(best.loss)} a year, and is whole again after ${formatDuration(best.rebuild + 0.1 * HOUR)}.`,
  }[goal];
  return [{ goal: goalWords[goal], value: best.level, why }];
}

/** Rows of strips from the start of a group: as many as show one round of the parity, twelve at most. */
export function layoutSketch(shape: Shape | Geometry, seed: number, drives: string[]): LayoutSketch {
  const rows: LayoutSketch['rows'] = [];
  const turn = shape.parity > 0 ? shape.width : 4;
  const wanted = Math.min(12, shape.level === 'distributed' ? tileOf(shape).rows * 2 : turn);
  const inLegs = shape.level !== 'distributed' && (shape.copies > 1 || shape.parity > 0);
  const perRow = inLegs ? shape.legs : 1;
  const empty = () => Array<LayoutSketch['rows'][number][number]>(shape.drives).fill(null);
  for (let k = 0; k < wanted; k++) rows.push(empty());
  const last = shape.level === 'distributed' ? (wanted / tileOf(shape).rows) * tileOf(shape).stripes : wanted * perRow;
  for (let stripe = 0; stripe < last; stripe++)
    for (const { drive, row, what, number } of stripeStrips(shape, seed, stripe))
      if (rows[row])
        rows[row][drive] = {
          stripe,
          what,
          text: what === 'data' ? String(number) : what === 'copy' ? `${number}′` : ('PQR'[number] ?? 'P'),
        };
  if (shape.level === 'distributed')
    rows.forEach((row, k) => {
      for (const drive of spareDrives(shape, seed, Math.floor(k / tileOf(shape).rows)))
        row[drive] ??= { stripe: -1, what: 'spare', text: '' };
    });
  return { drives, rows };
}
