import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { estateDocument, estateFromDocument } from '@/core/estate/document';
import { emptyOf, type Estate } from '@/core/estate/estate';
import { randomFrom } from '@/core/estate/random';
import { brokenRules } from '@/core/rules/book';
import type { ChangeView } from '@/core/change/record';
import { openTrabes } from '@/server/instance';
import { readSteps } from '@/store/change-rows';
import type { Figures } from './figures';
import { hostiles, scrambled, sent } from './hostile';
import { chance, pick, randomOperation } from './random-operation';
import { serve, type Served } from './server';

/** The demo comes with so many. */
const DEMO_CHANGES = 5;
const PORT = 4_950;
const SECRET = 'tide tables of 2031';

/** A server that is worked with, molested and killed, again and again; after every kill its database is looked at. */
export class Kills {
  private readonly folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-torture-'));
  private readonly file = path.join(this.folder, 'a.db');
  private readonly random: () => number;
  /** What the server has said of steps: it must hold after a kill. */
  private readonly seen = new Map<string, Map<number, 'done' | 'undone'>>();
  private readonly undoing = new Set<string>();
  private finished: string[] = [];
  private answers = 0;

  constructor(
    private readonly figures: Figures,
    private readonly seed: string,
  ) {
    this.random = randomFrom(`${seed} kills`);
  }

  async run(until: number): Promise<void> {
    await this.killWhileFilling(Math.min(until, Date.now() + 60_000));
    while (Date.now() < until) {
      const server = await serve(this.file, PORT);
      if (!server) {
        this.figures.fault('the server did not start', `after ${this.answers} answers`);
        break;
      }
      this.figures.most('start after a kill, ms', server.took);
      await this.work(server, Math.min(until, Date.now() + 1500 + this.random() * 12_000));
      if (chance(this.random, 0.15)) await server.stop();
      else {
        await server.kill();
        this.figures.add('kills');
      }
      this.look();
    }
    rmSync(this.folder, { recursive: true });
  }

  /** A new database is filled wholly or not at all, whenever it is killed. */
  private async killWhileFilling(until: number): Promise<void> {
    for (let k = 0; Date.now() < until && k < 12; k++) {
      const file = path.join(this.folder, `fill-${k}.db`);
      const server = await serve(file, PORT, 300 + this.random() * 5000);
      if (server) await server.kill();
      this.figures.add('kills while filling');
      const again = openTrabes(file, 'empty');
      const { estate, lab } = again.plant;
      const whole = estate.table('host').size >= 12 && again.changes.list().length === DEMO_CHANGES;
      if (!emptyOf(estate) && !whole) this.figures.fault('a database was filled by half', `${file} at ${lab.now}`);
      again.plant.close();
    }
  }

  /** Changes, undos, faults, hostile requests and probes side by side, until the time is over. */
  private async work(server: Served, until: number): Promise<void> {
    const over = () => Date.now() >= until;
    const guarded = async (work: () => Promise<void>) => {
      while (!over()) {
        try {
          await work();
        } catch (error) {
          // A request that the end cuts off.
          if (!over()) this.figures.add(`requests cut off (${(error as Error).name})`);
        }
      }
    };
    const view = await this.estate(server);
    await this.tell(server, 'POST', '/api/v1/lab/clock', { speed: 600 });
    await Promise.all([
      guarded(() => this.change(server, view)),
      guarded(() => this.change(server, view)),
      guarded(() => this.molest(server)),
      guarded(() => this.probe(server)),
    ]);
  }

  private async estate(server: Served): Promise<Estate> {
    const text = await (await fetch(`${server.address}/api/v1/estate`)).text();
    if (text.includes(SECRET)) this.figures.fault('a secret left in the open', 'in an export');
    return estateFromDocument(estateDocument.parse(JSON.parse(text)));
  }

  private async tell(
    server: Served,
    method: string,
    at: string,
    body?: unknown,
  ): Promise<{ status: number; value: unknown }> {
    const response = await fetch(server.address + at, {
      method,
      ...(body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
    });
    const text = await response.text();
    this.answers += 1;
    this.figures.add('answers');
    this.judge(`${method} ${at}`, response.status, text);
    return { status: response.status, value: text === '' ? null : JSON.parse(text) };
  }

  private judge(what: string, status: number, text: string): void {
    if (status >= 500) this.figures.fault('an answer of 5xx', `${what}: ${status} ${text}`);
    if (text.includes(SECRET)) this.figures.fault('a secret left in the open', what);
  }

  private async change(server: Served, view: Estate): Promise<void> {
    const basis = { seed: `${this.seed} ${this.answers}`, now: 1_934_000_000_000, month: '2031-04' };
    const operation = randomOperation(view, basis, this.random);
    const odd = chance(this.random, 0.15);
    const given = odd ? scrambled(this.random, operation) : operation;
    const made = await this.tell(server, 'POST', '/api/v1/changes', { title: 'Torture', operations: [given] });
    if (made.status === 201) {
      const { id } = made.value as ChangeView;
      const run = await this.tell(server, 'POST', `/api/v1/changes/${id}/run`);
      if (run.status === 202) {
        this.figures.add('changes run over HTTP');
        this.finished.push(id);
      }
    } else this.figures.add('changes refused over HTTP');
    const old = pick(this.random, this.finished.slice(-12));
    if (!old) return;
    const { value } = await this.tell(server, 'GET', `/api/v1/changes/${old}`);
    this.remember(value as ChangeView);
    if (chance(this.random, 0.3)) {
      this.undoing.add(old);
      const undone = await this.tell(server, 'POST', `/api/v1/changes/${old}/undo`);
      this.figures.add(undone.status === 202 ? 'changes undone over HTTP' : 'undos refused over HTTP');
    }
    if (chance(this.random, 0.1)) await this.tell(server, 'POST', '/api/v1/lab/advance', { seconds: 3600 });
  }

  private remember(change: ChangeView): void {
    const steps = this.seen.get(change.id) ?? new Map<number, 'done' | 'undone'>();
    for (const step of change.steps)
      if (step.state === 'done' || step.state === 'undone') steps.set(step.n, step.state);
    this.seen.set(change.id, steps);
  }

  private async molest(server: Served): Promise<void> {
    const hostile = pick(this.random, hostiles)!;
    const { status, text } = await sent(server.address, hostile);
    this.figures.add('hostile requests');
    this.judge(hostile.name, status, text);
    if (hostile.expects && !hostile.expects.includes(status))
      this.figures.fault('a hostile request was answered otherwise', `${hostile.name}: ${status} ${text}`);
  }

  /** How long somebody waits who only asks whether the server is there. */
  private async probe(server: Served): Promise<void> {
    const begun = performance.now();
    const response = await fetch(`${server.address}/api/v1/health`);
    const health = (await response.json()) as { troubles: { message: string }[] };
    this.figures.most('wait for a health answer under all this, ms', performance.now() - begun);
    for (const trouble of health.troubles) this.figures.fault('the server was in trouble', trouble.message);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }

  /** The database as the kill left it: nothing lost, nothing halved, no rule broken, no secret in it. */
  private look(): void {
    const trabes = openTrabes(this.file, 'demo');
    const { plant, changes } = trabes;
    for (const broken of brokenRules(plant.estate)) this.figures.fault('a rule is broken after a kill', broken.message);
    for (const [id, steps] of this.seen) {
      const recorded = new Map(readSteps(plant.store.db, id).map((step) => [step.n, step]));
      for (const [n, state] of steps) {
        this.figures.add('acknowledged steps looked at after a kill');
        const now = recorded.get(n)?.state;
        if (now === state || (state === 'done' && now === 'undone' && this.undoing.has(id))) continue;
        this.figures.fault('a step was lost', `${id} step ${n} was ${state}, and is ${now ?? 'gone'}`);
      }
    }
    for (const change of changes.list(1000))
      if (change.state === 'running' || change.state === 'undoing')
        this.figures.fault('a change is at work without a server', change.id);
    this.seen.clear();
    this.finished = this.finished.slice(-30);
    plant.close();
    for (const end of ['', '-wal'])
      try {
        if (readFileSync(this.file + end).includes(SECRET))
          this.figures.fault('a secret left in the open', `in the file ${end}`);
      } catch {
        // No such file just now.
      }
  }
}
