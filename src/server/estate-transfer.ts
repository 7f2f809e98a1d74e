import { JSONParser, TokenType } from '@streamparser/json';
import { documentRows, type EstateDocument } from '@/core/estate/document';
import { created } from '@/core/estate/effects';
import { kinds, rowSchemas, type Kind, type Row } from '@/core/estate/entities';
import { emptyOf, Estate } from '@/core/estate/estate';
import { ExtentTaken } from '@/core/estate/occupancy';
import { rowsInTurn } from '@/core/rules/book';
import type { InParts } from '@/core/units/in-parts';
import { isSecretField } from '@/core/kinds/secret-field';
import type { Refusal } from '@/core/operation/refusal';
import { broughtUp } from '@/formats/estate-file';
import { MOST_DEPTH, unfitText } from '@/formats/bounds';
import type { Plant } from './plant';
import { Problem, refusedProblem } from './problem';
import { inSlices, type Watching } from './slices';
import { readEstateYaml, writeEstateText } from './texts';

/** Kinds with fields that hold secrets: the rows of others are shown as they are. */
const secretive = new Set(
  kinds.filter(
    (kind) => Object.keys(rowSchemas[kind].shape).some(isSecretField) || kind === 'authServer' || kind === 'target',
  ),
);

/** Rows of a kind as readers see them: by id, secrets under their veils. */
const shownRows = (plant: Plant, kind: Kind, rows: readonly Row[]): Row[] =>
  documentRows(kind, rows).map((row) => (secretive.has(kind) ? plant.vault.veiledRow(row) : row));

/** The estate as readers see it. */
export const exportEstate = (plant: Plant): EstateDocument =>
  ({
    trabes: 1,
    estate: Object.fromEntries(
      kinds.map((kind) => [kind, shownRows(plant, kind, [...plant.estate.table(kind).values()])]),
    ),
  }) as unknown as EstateDocument;

/** The same as text: JSON in morsels as it is sent, YAML written in a thread of its own. */
export async function exportEstateText(
  plant: Plant,
  yaml: boolean,
  signal?: AbortSignal,
): Promise<string | ReadableStream<Uint8Array>> {
  return yaml ? writeEstateText(exportEstate(plant), signal) : streamed(plant);
}

const ROWS_AT_ONCE = 200;

/** Rows are never changed in place: those of one moment are gathered at once and written out bit by bit. */
function streamed(plant: Plant): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  const moment = kinds.map((kind) => [kind, [...plant.estate.table(kind).values()] as Row[]] as const);
  const parts = (function* () {
    yield '{"trabes":1,"estate":{';
    for (const [k, [kind, all]] of moment.entries()) {
      const rows = shownRows(plant, kind, all);
      yield `${k === 0 ? '' : ','}"${kind}":[`;
      for (let from = 0; from < rows.length; from += ROWS_AT_ONCE)
        yield (from === 0 ? '' : ',') + JSON.stringify(rows.slice(from, from + ROWS_AT_ONCE)).slice(1, -1);
      yield ']';
    }
    yield '}}';
  })();
  return new ReadableStream({
    async pull(controller) {
      await new Promise<void>((resolve) => setImmediate(resolve));
      const next = parts.next();
      if (next.done) controller.close();
      else controller.enqueue(encoder.encode(next.value));
    },
  });
}

/** Largest estate that is taken, bytes. */
export const ESTATE_BODY = 256 << 20;

const refuse = (code: string, message: string, mend: string): Refusal => ({
  code,
  subject: { kind: 'document', name: 'estate' },
  message,
  mend,
});

/** Takes a whole estate, as it comes in, into an instance that holds none; nothing is taken unless every rule holds. */
export async function importEstate(
  plant: Plant,
  body: ReadableStream<Uint8Array> | null,
  yaml: boolean,
  { signal, limit = ESTATE_BODY, length = 0 }: { signal?: AbortSignal; limit?: number; length?: number } = {},
): Promise<{ rows: number }> {
  refuseFull(plant);
  const letGo = plant.hold();
  const told = (what: string) => (done: number, of: number) =>
    plant.events.emit({ type: 'work', id: 'estate', what, done, of });
  const watched = (what: string): Watching => ({ signal, progress: ({ done, of }) => told(what)(done, of) });
  try {
    const rows = yaml
      ? await readYaml(await gathered(body, limit), signal)
      : await readJson(body, limit, (done) => told('Reading the estate')(done, Math.max(done, length)));
    const estate = await inSlices(building(plant, rows), watched('Putting the rows up'));
    const broken = await inSlices(looking(estate), watched('Asking every rule'));
    if (broken.length > 0) throw refusedProblem(broken);
    // Others may have put something up while this one was read.
    refuseFull(plant);
    const effects = kinds.flatMap((kind) => [...estate.table(kind).values()].map((row) => created(kind, row)));
    await inSlices(
      plant.replacing(estate, effects, `Estate imported: ${effects.length} rows`),
      watched('Writing it down'),
    );
    return { rows: effects.length };
  } finally {
    letGo();
    told('')(0, 0);
  }
}

function refuseFull(plant: Plant): void {
  if (!emptyOf(plant.estate))
    throw new Problem(
      409,
      'estate-not-empty',
      'This instance holds an estate already.',
      'Import into an empty instance: npm run demo -- --empty.',
    );
}

interface FoundRow {
  kind: Kind;
  row: Row;
}

const tooLarge = (limit: number): Problem =>
  new Problem(413, 'body-too-large', `The estate is larger than ${limit >> 20} MiB.`, 'Leave parts of it out.');

async function gathered(body: ReadableStream<Uint8Array> | null, limit: number): Promise<string> {
  const chunks: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of body ?? []) {
    size += chunk.byteLength;
    if (size > limit) throw tooLarge(limit);
    chunks.push(chunk);
  }
  return Buffer.concat(chunks).toString('utf8');
}

async function readYaml(text: string, signal?: AbortSignal): Promise<FoundRow[]> {
  const read = await readEstateYaml(text, signal);
  if (!read.ok) throw refusedProblem(read.refusals);
  return kinds.flatMap((kind) => (read.document.estate[kind] as Row[]).map((row) => ({ kind, row })));
}

const isKind = (text: unknown): text is Kind => kinds.includes(text as Kind);
const MOST_REFUSALS = 20;
/** Bytes handed to the reader before others are answered. */
const MORSEL = 64 * 1024;

/** Rows of a JSON document, each read and checked as soon as its last byte is there. */
async function readJson(
  body: ReadableStream<Uint8Array> | null,
  limit: number,
  told: (done: number) => void,
): Promise<FoundRow[]> {
  const rows: FoundRow[] = [];
  const refusals: Refusal[] = [];
  let version: unknown;
  const parser = new JSONParser({ paths: ['$.trabes', '$.estate.*.*'], keepStack: false, numberBufferSize: 64 });
  let problem: Problem | null = null;
  parser.onError = (error) => {
    problem ??= new Problem(
      422,
      'broken-json',
      `The document cannot be read: ${error.message.split('\n')[0]}.`,
      'Correct it there.',
    );
  };
  let depth = 0;
  parser.onToken = ({ token }) => {
    if (token === TokenType.LEFT_BRACE || token === TokenType.LEFT_BRACKET) depth += 1;
    else if (token === TokenType.RIGHT_BRACE || token === TokenType.RIGHT_BRACKET) depth -= 1;
    if (depth > MOST_DEPTH)
      problem ??= new Problem(
        422,
        'too-deep',
        `The document nests deeper than ${MOST_DEPTH} levels.`,
        'It is no estate.',
      );
  };
  parser.onValue = ({ value, key, stack }) => {
    if (stack.length <= 1) {
      version = value;
      return;
    }
    const kind = stack.at(-1)?.key;
    const place = `estate.${String(kind)}.${String(key)}`;
    if (!isKind(kind)) {
      refusals.push(refuse('not-an-estate', `estate.${String(kind)}: there is no such kind of rows.`, EXPORTED));
      return;
    }
    const unfit = unfitText(value);
    for (const found of broughtUp(kind, value)) {
      const read = rowSchemas[found.kind].safeParse(found.row);
      if (!read.success)
        for (const issue of read.error.issues)
          refusals.push(refuse('not-an-estate', `${[place, ...issue.path].join('.')}: ${issue.message}.`, EXPORTED));
      else if (unfit !== null)
        refusals.push(refuse('unfit-text', `${place}: ${unfit} holds a character that no text may have.`, EXPORTED));
      else rows.push({ kind: found.kind, row: read.data });
    }
  };
  let size = 0;
  for await (const chunk of body ?? []) {
    for (let from = 0; from < chunk.byteLength; from += MORSEL) {
      const morsel = chunk.subarray(from, from + MORSEL);
      size += morsel.byteLength;
      if (size > limit) throw tooLarge(limit);
      try {
        parser.write(morsel);
      } catch (error) {
        parser.onError(error as Error);
      }
      if (problem) throw problem as Problem;
      if (refusals.length >= MOST_REFUSALS) throw refusedProblem(refusals.slice(0, MOST_REFUSALS));
      told(size);
      await new Promise<void>((resolve) => setImmediate(resolve));
    }
  }
  if (!parser.isEnded)
    throw new Problem(422, 'broken-json', 'The document ends in the middle.', 'Send the whole of it.');
  if (version !== 1) refusals.push(refuse('not-an-estate', 'trabes: the document is not of version 1.', EXPORTED));
  if (refusals.length > 0) throw refusedProblem(refusals);
  return rows;
}

const EXPORTED = 'Import a document that this product exported.';

function* building(plant: Plant, rows: readonly FoundRow[]): InParts<Estate> {
  const estate = new Estate();
  const seen = new Set<string>();
  const refusals: Refusal[] = [];
  for (const [k, { kind, row }] of rows.entries()) {
    if (seen.has(row.id))
      refusals.push(
        refuse(
          'estate-inconsistent',
          `The id ${row.id} stands twice.`,
          'Correct the document; nothing of it was taken.',
        ),
      );
    else
      try {
        seen.add(row.id);
        estate.apply([created(kind, plant.vault.unveiledRow(row))]);
      } catch (error) {
        if (!ExtentTaken.is(error)) throw error;
        refusals.push(refuse('estate-inconsistent', error.message, 'Correct the document; nothing of it was taken.'));
      }
    if (refusals.length >= MOST_REFUSALS) break;
    if (k % 100 === 0) yield { done: k, of: rows.length };
  }
  if (refusals.length > 0) throw refusedProblem(refusals);
  return estate;
}

function* looking(estate: Estate): InParts<Refusal[]> {
  const found: Refusal[] = [];
  const of = kinds.reduce((sum, kind) => sum + estate.table(kind).size, 0);
  let done = 0;
  for (const broken of rowsInTurn(estate)) {
    for (const one of broken)
      found.push(refuse('estate-inconsistent', one.message, 'Correct the document; nothing of it was taken.'));
    if (found.length >= MOST_REFUSALS) return found.slice(0, MOST_REFUSALS);
    done += 1;
    if (done % 50 === 0) yield { done, of };
  }
  return found;
}
