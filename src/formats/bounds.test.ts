import { boundsOfJson, boundsOfYaml, MOST_ANCHORS, MOST_DEPTH, MOST_KEYS, unfitText } from './bounds';
import { readChangeFile } from './change-file';

describe('bounds of a document', () => {
  test('of JSON are its depth, whatever stands in strings', () => {
    const nested = (depth: number) => '['.repeat(depth) + ']'.repeat(depth);
    expect(boundsOfJson(nested(MOST_DEPTH))).toBeNull();
    expect(boundsOfJson(nested(MOST_DEPTH + 1))).toMatchObject({ code: 'too-deep' });
    expect(boundsOfJson(`["${'['.repeat(500)}", "\\"${'{'.repeat(500)}"]`)).toBeNull();
    expect(boundsOfJson('{"a":1}'.repeat(500))).toBeNull();
    expect(boundsOfJson('['.repeat(1_000_000))).toMatchObject({ code: 'too-deep' });
  });

  test('of YAML are its depth, its keys and its anchors', () => {
    const lines = (count: number, line: (k: number) => string) =>
      Array.from({ length: count }, (_, k) => line(k)).join('');
    expect(boundsOfYaml('['.repeat(100_000))).toMatchObject({ code: 'too-deep' });
    expect(boundsOfYaml('- '.repeat(100_000))).toMatchObject({ code: 'too-deep' });
    expect(boundsOfYaml(lines(200, (k) => `${' '.repeat(k)}a:\n`))).toMatchObject({ code: 'too-deep' });
    expect(boundsOfYaml(lines(MOST_KEYS + 1, (k) => `k${k}: 1\n`))).toMatchObject({ code: 'too-many-keys' });
    expect(boundsOfYaml(lines(MOST_ANCHORS + 1, (k) => `- &a${k} 1\n`))).toMatchObject({ code: 'too-many-anchors' });
    expect(boundsOfYaml(lines(MOST_ANCHORS, (k) => `- &a${k} 1\n`))).toBeNull();
    expect(boundsOfYaml(lines(300, (k) => `k${k}: [1, 2, {a: b}]\n`))).toBeNull();
  });

  test('are said for a change file, with the limit', () => {
    expect(readChangeFile('['.repeat(100_000))).toMatchObject({
      ok: false,
      refusals: [{ code: 'too-deep', message: `The document nests deeper than ${MOST_DEPTH} levels.` }],
    });
    const many = Array.from({ length: 2001 }, () => '  - do: host.rescan\n    host: gate-1\n').join('');
    expect(readChangeFile(`title: x\noperations:\n${many}`)).toMatchObject({
      ok: false,
      refusals: [{ message: expect.stringContaining('2000 operations are the most') as string }],
    });
  });
});

describe('texts', () => {
  test('with control characters or half a character are found, wherever they stand', () => {
    expect(unfitText({ a: ['fine', 'tabs\tand\nlines are fine', 'Größe 🚢'] })).toBeNull();
    expect(unfitText({ a: ['fine', 'nul\u0000'] })).toBe('a.1');
    expect(unfitText({ a: { b: '\ud83d' } })).toBe('a.b');
    expect(unfitText({ a: '\udea2\ud83d' })).toBe('a');
    expect(unfitText({ 'a\u0007': 1 })).toBe('the document, a name in it');
    expect(unfitText('\u001b[31m')).toBe('the text');
    expect(unfitText([null, 7, true])).toBeNull();
  });

  test('of a change file must be fit, and a key stands once in a map', () => {
    const file = (title: string, more = '') =>
      `title: ${title}\noperations:\n  - do: host.rescan\n    host: gate-1\n${more}`;
    expect(readChangeFile(file('"a\\0b"'))).toMatchObject({ ok: false, refusals: [{ code: 'unfit-text' }] });
    expect(readChangeFile(file('x', '    host: gate-2\n'))).toMatchObject({
      ok: false,
      refusals: [{ code: 'broken-yaml', message: 'Line 5, column 5: host is named twice.' }],
    });
    expect(readChangeFile(file('x'))).toMatchObject({ ok: true });
  });
});
