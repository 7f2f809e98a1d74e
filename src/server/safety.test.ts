import { copyFileSync, existsSync, mkdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { OperationDocument } from '@/core/change/registry';
import { changed, created } from '@/core/estate/effects';
import { emptyOf } from '@/core/estate/estate';
import { brokenRules } from '@/core/rules/book';
import { HOUR } from '@/core/units/duration';
import { CannotOpen } from '@/store/cannot-open';
import { readSteps } from '@/store/change-rows';
import { Store } from '@/store/store';
import { openTrabes, type Trabes } from './instance';
import { nearlyDone } from './nearly-done.fixture';
import { copyPristine, makePristine } from './pristine.fixture';
import { changeFault } from './lab';
import { Problem } from './problem';

let folder: string;
let file: string;
let trabes: Trabes;
beforeAll(makePristine, 180_000);
beforeEach(() => {
  ({ folder, file } = copyPristine());
  trabes = openTrabes(file, 'demo');
  trabes.clock.setSpeed(0);
});
afterEach(() => {
  jest.restoreAllMocks();
  trabes.plant.close();
  rmSync(folder, { recursive: true });
});

const problemOf = async (work: () => unknown): Promise<Problem> => {
  try {
    await work();
  } catch (error) {
    if (Problem.is(error)) return error;
    throw error;
  }
  throw new Error('Nothing was refused.');
};
const whyNot = (work: () => unknown): string => {
  try {
    work();
  } catch (error) {
    if (CannotOpen.is(error)) return `${error.message} ${error.mend}`;
    throw error;
  }
  throw new Error('It was opened.');
};
const carve = (name: string, count = 1): OperationDocument => ({
  do: 'volume.create',
  array: 'lintel-1',
  pool: 'quay',
  name,
  size: '1 GiB',
  count,
});
async function ran(title: string, ...operations: OperationDocument[]): Promise<string> {
  const { id } = await trabes.changes.prepare(title, operations, 'test');
  await trabes.changes.run(id);
  trabes.clock.advance(HOUR);
  expect((await trabes.changes.view(id)).state).toBe('done');
  return id;
}

describe('undo', () => {
  test('is asked of the stand-in, as the step was', async () => {
    const id = await ran('Carve', carve('late'));
    for (const name of ['lintel-1/a', 'lintel-1/b']) changeFault(trabes.plant, 'controller-down', name, false);
    expect((await trabes.changes.view(id)).undo).toMatchObject({
      possible: false,
      refusals: [{ code: 'array-does-not-answer' }],
    });
    expect((await problemOf(() => trabes.changes.undo(id))).code).toBe('array-does-not-answer');
    changeFault(trabes.plant, 'controller-down', 'lintel-1/b', true);
    await trabes.changes.undo(id);
    // The array falls silent while the undo is under way.
    changeFault(trabes.plant, 'controller-down', 'lintel-1/b', false);
    trabes.clock.advance(HOUR);
    expect(await trabes.changes.view(id)).toMatchObject({
      state: 'stopped',
      problem: { code: 'array-does-not-answer' },
      steps: [{ state: 'done' }],
    });
  });

  test('what was undone is laid back as a draft, and can be run again', async () => {
    const id = await ran('Carve', carve('late', 2));
    await trabes.changes.undo(id);
    trabes.clock.advance(HOUR);
    const again = await trabes.changes.again(id);
    expect(again).toMatchObject({ title: 'Carve', state: 'draft', origin: '"Carve"', preview: { refusals: [] } });
    expect(again.id).not.toBe(id);
    await trabes.changes.run(again.id);
    trabes.clock.advance(HOUR);
    expect((await trabes.changes.view(again.id)).state).toBe('done');
    expect((await problemOf(() => trabes.changes.again('chg_none'))).status).toBe(404);
  });

  test('its record tells who carried each step out, also of steps of before that was written down', async () => {
    const id = await ran('Carve', carve('late'));
    const [step] = readSteps(trabes.plant.store.db, id);
    expect(step!.device).toMatchObject({
      kind: 'array',
      name: 'lintel-1',
      id: expect.stringMatching(/^arr_/) as string,
    });
  });
});

describe('what is thrown', () => {
  test('in a change stops that change; the clock and all others go on', async () => {
    const bad = await trabes.changes.prepare('Bad', [carve('bad')], 'test');
    const good = await trabes.changes.prepare('Good', [carve('good')], 'test');
    await trabes.changes.run(bad.id);
    await trabes.changes.run(good.id);
    const commit = trabes.plant.store.commit.bind(trabes.plant.store);
    jest.spyOn(trabes.plant.store, 'commit').mockImplementation((what) => {
      if (what.change?.id === bad.id && what.effects) throw new Error('The database coughs.');
      commit(what);
    });
    trabes.clock.advance(HOUR);
    expect(await trabes.changes.view(bad.id)).toMatchObject({
      state: 'stopped',
      problem: { code: 'defect', message: expect.stringContaining('The database coughs') as string },
    });
    expect((await trabes.changes.view(good.id)).state).toBe('done');
    expect(trabes.plant.troubles.list()).toMatchObject([{ what: `change ${bad.id}` }]);
    jest.restoreAllMocks();
    await trabes.changes.retry(bad.id);
    expect(trabes.plant.troubles.list()).toEqual([]);
    trabes.clock.advance(HOUR);
    expect((await trabes.changes.view(bad.id)).state).toBe('done');
  });

  test('by a commit that breaks a rule is a refusal in words, and nothing is written', async () => {
    const host = [...trabes.plant.estate.table('host').values()][0]!;
    const problem = await problemOf(() =>
      trabes.plant.commit({ effects: [created('host', { ...host, id: 'host_x' })] }),
    );
    expect([problem.status, problem.code]).toEqual([409, 'breaks-taken-twice']);
    expect(trabes.plant.estate.table('host').get('host_x')).toBeUndefined();
  });

  /** Lets commits fail that touch rows of a kind. */
  const failing = (kind: string, words: string) => {
    const commit = trabes.plant.commit.bind(trabes.plant);
    return jest.spyOn(trabes.plant, 'commit').mockImplementation((what) => {
      if (what.effects?.some((effect) => effect.kind === kind)) throw new Error(words);
      commit(what);
    });
  };

  test('by a job puts that job aside and is told; the lab goes on, and the job too when it can', () => {
    nearlyDone(trabes);
    const before = trabes.plant.estate.table('job').size;
    const commits = failing('job', 'The job stumbles.');
    const from = trabes.plant.lab.now;
    trabes.clock.advance(2 * HOUR);
    expect(trabes.plant.lab.now).toBe(from + 2 * HOUR);
    expect(trabes.plant.estate.table('job').size).toBe(before);
    expect(trabes.plant.troubles.list()).toMatchObject([
      { message: expect.stringContaining('The job stumbles') as string },
    ]);
    commits.mockRestore();
    trabes.clock.advance(2 * HOUR);
    expect(trabes.plant.estate.table('job').size).toBe(before - 1);
    expect(trabes.plant.troubles.list()).toEqual([]);
  });

  test('by what hosts write does not stop time', () => {
    const commits = failing('hostDevice', 'Ink.');
    const from = trabes.plant.lab.now;
    trabes.clock.advance(HOUR);
    expect(trabes.plant.lab.now).toBe(from + HOUR);
    expect(trabes.plant.troubles.list()).toMatchObject([{ what: 'traffic' }]);
    commits.mockRestore();
    trabes.clock.advance(HOUR);
    expect(trabes.plant.troubles.list()).toEqual([]);
  });
});

describe('a full disk', () => {
  const fill = () => {
    const { db } = trabes.plant.store;
    db.pragma(`max_page_count = ${db.pragma('page_count', { simple: true }) as number}`);
  };
  const makeRoom = () => trabes.plant.store.db.pragma('max_page_count = 1000000');

  test('keeps what waits, and it goes on when there is room', async () => {
    const { id } = await trabes.changes.prepare('Many', [carve('many', 40)], 'test');
    await trabes.changes.run(id);
    fill();
    const advance = () => trabes.clock.advance(HOUR);
    expect(advance).toThrow(/full/);
    const stood = trabes.plant.lab.now;
    expect(advance).toThrow(/full/);
    expect(trabes.plant.lab.now).toBe(stood);
    const stuck = await trabes.changes.view(id);
    expect(stuck.state).toBe('running');
    // Memory is as the database is, and no step was halved.
    const done = stuck.steps.filter((step) => step.state === 'done').length;
    expect([...trabes.plant.estate.table('volume').values()].filter((row) => row.name.startsWith('many'))).toHaveLength(
      done,
    );
    expect(brokenRules(trabes.plant.estate)).toEqual([]);
    makeRoom();
    advance();
    expect((await trabes.changes.view(id)).state).toBe('done');
  });
});

describe('one server a database', () => {
  test('a second is refused and told where the first is; a kill or an end leaves the lock free', () => {
    trabes.plant.store.lock!.says('http://127.0.0.1:4600');
    expect(whyNot(() => openTrabes(file, 'demo'))).toContain('at work on');
    expect(whyNot(() => openTrabes(file, 'demo'))).toContain('http://127.0.0.1:4600');
    trabes.plant.close();
    expect(existsSync(`${file}.at`)).toBe(false);
    trabes = openTrabes(file, 'demo');
  });

  test('what lies on the disk is its owner’s alone', () => {
    for (const end of ['a.db', 'a.db-wal', 'a.db-shm', 'a.key', 'a.db.lock'])
      expect([end, statSync(path.join(folder, end)).mode & 0o077]).toEqual([end, 0]);
  });

  test('what cannot be opened is said in one sentence, with what to do', () => {
    const at = (name: string) => path.join(folder, name);
    writeFileSync(at('broken.db'), 'This is a letter, and no database at all. '.repeat(200));
    expect(whyNot(() => openTrabes(at('broken.db'), 'demo'))).toMatch(/is broken: it cannot be read\. Put a copy/);
    mkdirSync(at('folder.db'));
    expect(whyNot(() => openTrabes(at('folder.db'), 'demo'))).toMatch(/is a folder\. Name a file/);
    expect(whyNot(() => openTrabes(path.join(at('broken.db'), 'x.db'), 'demo'))).toMatch(/cannot be opened/);
    const later = openTrabes(at('later.db'), 'empty');
    later.plant.store.db.pragma('user_version = 999');
    later.plant.close();
    expect(whyNot(() => openTrabes(at('later.db'), 'demo'))).toMatch(/is of a later version \(999\)/);
    // Each can be tried again: nothing holds its lock.
    expect(whyNot(() => openTrabes(at('later.db'), 'demo'))).toMatch(/later version/);
  });

  test('starting over takes the old database away, but never one that is in use', () => {
    expect(whyNot(() => openTrabes(file, 'empty', { fresh: true }))).toContain('at work on');
    expect(trabes.plant.estate.table('host').size).toBeGreaterThan(0);
    trabes.plant.close();
    trabes = openTrabes(file, 'empty', { fresh: true });
    expect(emptyOf(trabes.plant.estate)).toBe(true);
  });

  test('a filling that fails leaves nothing behind, and begins anew', () => {
    const failing = path.join(folder, 'c.db');
    const commit = Reflect.get(Store.prototype, 'commit');
    let commits = 0;
    const spy = jest.spyOn(Store.prototype, 'commit').mockImplementation(function (this: Store, what) {
      if (++commits > 30) throw new Error('Halfway.');
      commit.call(this, what);
    });
    expect(whyNot(() => openTrabes(failing, 'demo'))).toMatch(/Halfway/);
    spy.mockRestore();
    const left = openTrabes(failing, 'empty');
    expect(emptyOf(left.plant.estate)).toBe(true);
    left.plant.close();
    rmSync(failing);
    const again = openTrabes(failing, 'demo');
    expect(again.changes.list()).toHaveLength(5);
    expect(again.plant.estate.table('host').size).toBe(trabes.plant.estate.table('host').size);
    again.plant.close();
  });
});

describe('two people', () => {
  test('a draft that somebody else revised is not revised, run or discarded unseen', async () => {
    const { id, revision } = await trabes.changes.prepare('Ours', [carve('late'), carve('later')], 'test');
    expect(revision).toBe(1);
    const theirs = await trabes.changes.revise(id, { operations: [{ ...carve('late'), size: '2 GiB' }] }, 1);
    expect(theirs.revision).toBe(2);
    for (const work of [
      () => trabes.changes.run(id, 1),
      () => trabes.changes.revise(id, { title: 'Mine' }, 1),
      () => trabes.changes.discard(id, 1),
    ]) {
      const problem = await problemOf(work);
      expect([problem.status, problem.code]).toEqual([412, 'changed-meanwhile']);
      expect(problem.message).toBe(
        '"Ours" was changed meanwhile: Operation 1 (carve volumes) has another size. Operation 2 (carve volumes) was taken out.',
      );
    }
    expect(theirs.revisions).toHaveLength(1);
    await trabes.changes.run(id, 2);
    expect((await trabes.changes.view(id)).state).toBe('running');
  });
});

describe('secrets', () => {
  const SECRET = 'tide tables of 2031';
  const prints = () =>
    (trabes.plant.store.db.prepare('SELECT count(*) AS n FROM sealed_secret').get() as { n: number }).n;

  test('in a field nobody knows are refused before anything is kept', async () => {
    const slip = [{ do: 'host.configure', host: 'gate-1', ChapSecret: SECRET }];
    const before = trabes.changes.list().length;
    expect((await problemOf(() => trabes.changes.prepare('Slip', slip, 'test'))).code).toBe('parameter-unknown');
    expect(trabes.changes.list()).toHaveLength(before);
    const preview = await trabes.changes.preview(slip);
    expect(JSON.stringify(preview)).not.toContain(SECRET);
  });

  test('that are no text are refused, and stand nowhere', async () => {
    for (const chapSecret of [[SECRET], { a: SECRET }, 7]) {
      const view = await trabes.changes.prepare('Slip', [{ do: 'host.configure', host: 'gate-1', chapSecret }], 'test');
      expect(view.preview!.refusals).toMatchObject([{ message: 'A secret is one text.' }]);
      expect(JSON.stringify(view)).not.toContain(SECRET);
    }
  });

  test('that are equal look different to readers, and come back as what they are', async () => {
    const both = await trabes.changes.prepare(
      'CHAP',
      [
        { do: 'host.configure', host: 'gate-1', chapSecret: SECRET },
        {
          do: 'initiator.configure',
          host: 'gate-1',
          initiator: 'iqn.2031-04.example.skarholt:gate-1',
          chapSecret: SECRET,
        },
      ],
      'test',
    );
    const [one, two] = both.operations.map((operation) => operation.chapSecret);
    expect(one).toMatch(/^sealed:/);
    expect(one).not.toBe(two);
    await trabes.changes.revise(both.id, { operations: both.operations });
    await trabes.changes.run(both.id);
    trabes.clock.advance(HOUR);
    const { estate, vault } = trabes.plant;
    const host = [...estate.table('host').values()].find((row) => row.name === 'gate-1')!;
    const initiator = [...estate.table('initiator').values()].find((row) => row.host === host.id)!;
    expect(host.chapSecret).toBe(initiator.chapSecret);
    const shown = vault.veiledRow(host);
    expect(shown.chapSecret).not.toBe(vault.veiledRow(initiator).chapSecret);
    expect(shown.chapSecret).not.toBe(host.chapSecret);
    expect(vault.unveiledRow(shown)).toEqual(host);
  });

  test('to which nothing refers are forgotten; a preview keeps none', async () => {
    await trabes.changes.preview([{ do: 'host.configure', host: 'gate-1', chapSecret: SECRET }]);
    expect(prints()).toBe(0);
    const { id } = await trabes.changes.prepare(
      'CHAP',
      [{ do: 'host.configure', host: 'gate-1', chapSecret: SECRET }],
      'test',
    );
    expect(prints()).toBe(1);
    trabes.changes.discard(id);
    expect(prints()).toBe(0);
  });

  test('are not lost with their key without a word', async () => {
    await ran('CHAP', { do: 'host.configure', host: 'gate-1', chapSecret: SECRET });
    const key = path.join(folder, 'a.key');
    const keep = path.join(folder, 'kept');
    copyFileSync(key, keep);
    trabes.plant.close();
    const tried = (bytes: Buffer | null): string => {
      rmSync(key);
      if (bytes) writeFileSync(key, bytes);
      const said = whyNot(() => openTrabes(file, 'demo'));
      if (!bytes) writeFileSync(key, '');
      return said;
    };
    expect(tried(null)).toMatch(
      /1 secret is sealed .* is missing\. Put the right key file back\. .*TRABES_NEW_KEY=yes/,
    );
    expect(tried(Buffer.alloc(0))).toMatch(/is no key: it has 0 bytes/);
    expect(tried(Buffer.alloc(7, 1))).toMatch(/has 7 bytes instead of 32/);
    expect(tried(Buffer.alloc(32, 1))).toMatch(/is the key of another database/);
    jest.spyOn(console, 'error').mockImplementation(() => {});
    const given = openTrabes(file, 'demo', { newKey: true });
    expect(console.error).toHaveBeenCalledWith(expect.stringContaining('a new one was made'));
    given.plant.close();
    copyFileSync(keep, key);
    // The old key is the wrong one now, but nothing is sealed that it could be needed for.
    trabes = openTrabes(file, 'demo', { newKey: true });
  });
});

test('a change of the estate that an older plan did not see is no reason to stop others', async () => {
  const device = [...trabes.plant.estate.table('hostDevice').values()][0]!;
  trabes.plant.commit({ effects: [changed('hostDevice', device, { writeRate: 0 })] });
  const preview = trabes.changes.preview([carve('late', 300)]);
  trabes.plant.commit({ effects: [changed('hostDevice', device, { writeRate: 5 })] });
  expect((await preview).steps).toHaveLength(300);
});
