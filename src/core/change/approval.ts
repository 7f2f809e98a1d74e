import { kindWords, type Kind } from '../estate/entities';
import { rowName, type Effect } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { hexFrom } from '../estate/random';
import { referredIds, references } from '../estate/references';

/** What was approved: the plan, and the things it was worked out from, each with a digest of how it stood. */
export interface Approval {
  plan: string;
  facts: { kind: Kind; id: string; name: string; digest: string }[];
}

/** What hosts, jobs and time move by themselves: by these fields nobody has changed anything. */
const moving: ReadonlySet<string> = new Set([
  'written',
  'holes',
  'files',
  'image',
  'used',
  'free',
  'reducedTo',
  'copiesBytes',
  'stands',
  'base',
  'done',
  'total',
  'rate',
  'round',
  'rounds',
  'flows',
  'log',
  'pit',
  'every',
  'carrying',
  'wear',
  'mark',
  'writeRate',
  'noPathSince',
  'current',
  'since',
  'stretch',
  // Which controller owns what is new is chosen anew, by what each has to do then.
  'owner',
]);
const timed = (field: string): boolean => field === 'asOf' || /(At|From|Until)$/.test(field);

/** Where extents come to lie, and the jobs and logins that follow, are worked out anew when a step runs. */
const follows: ReadonlySet<Kind> = new Set<Kind>(['extent', 'job', 'login', 'access', 'planRun', 'cycle']);

const stable = (row: object): string =>
  JSON.stringify(
    Object.entries(row)
      .filter(([field]) => !moving.has(field) && !timed(field))
      .sort(([a], [b]) => (a < b ? -1 : 1)),
  );
const digestOf = (text: string): string => hexFrom(text, 16);

/** Binds an approval to what a plan does and to the rows it was worked out from: those it changes, and those they refer to. */
export function approvalOf(view: EstateView, effects: readonly Effect[]): Approval {
  const facts = new Map<string, Approval['facts'][number]>();
  const add = (kind: Kind, id: string) => {
    const row = view.table(kind).get(id);
    if (!row || follows.has(kind) || facts.has(`${kind} ${id}`)) return;
    facts.set(`${kind} ${id}`, { kind, id, name: rowName(kind, row), digest: digestOf(stable(row)) });
  };
  const plan: string[] = [];
  for (const { kind, id, before, after } of effects) {
    if (follows.has(kind)) continue;
    plan.push(`${kind} ${id} ${after ? stable(after) : 'gone'}`);
    if (before) add(kind, id);
    for (const row of [before, after])
      if (row)
        for (const { from, field, to } of references)
          // On which copy a volume stands moves on with every run of its plan.
          if (from === kind && to !== 'snapshot' && !moving.has(field))
            for (const other of referredIds(row, field)) add(to, other);
  }
  return { plan: digestOf(plan.join('\n')), facts: [...facts.values()] };
}

/** What is otherwise than when it was approved, in words; null where all is as it was. */
export function staleSince(was: Approval, is: Approval): string | null {
  const now = new Map(is.facts.map((fact) => [`${fact.kind} ${fact.id}`, fact]));
  for (const fact of was.facts) {
    const found = now.get(`${fact.kind} ${fact.id}`);
    if (!found) return `${kindWords[fact.kind]} ${fact.name} has gone or is no part of it any more`;
    if (found.digest !== fact.digest) return `${kindWords[fact.kind]} ${fact.name} changed`;
  }
  return was.plan === is.plan ? null : 'what the change would do is something else';
}
