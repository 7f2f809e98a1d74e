import { createHash } from 'node:crypto';
import { contextFor, planChange } from '@/core/change/plan';
import { askable } from '@/core/change/registry';
import type { EstateView } from '@/core/estate/estate';
import { randomFrom } from '@/core/estate/random';
import { LAB_START } from '../demo/hardware';
import { demoEstate } from '../demo/scenario';
import { randomOperation } from './random-operation';

const hash = (value: unknown): string =>
  createHash('sha256')
    .update(JSON.stringify(value) ?? 'nothing')
    .digest('hex')
    .slice(0, 8);

const DRAFTS = 24;

/**
 * What operations of the given kinds foretell and do on the demo, for a seeded handful of drafts each: a line a draft, with the title or the
 * refusals in full and a hash of what the form says, half filled in and whole, of the effects and of the notes. Kept as a snapshot, it tells
 * when a figure or a word moved that was not meant to.
 */
export const golden = (...kinds: string[]): Record<string, string[]> => goldenOn(demoEstate().estate, kinds);

/** The same on another estate than the bare demo. */
export function goldenOn(estate: EstateView, kinds: readonly string[]): Record<string, string[]> {
  const basis = { seed: 'golden', now: LAB_START, month: '2031-04' };
  return Object.fromEntries(
    kinds.map((kind) => {
      const type = askable(kind)!;
      const random = randomFrom(`golden ${kind}`);
      const lines = Array.from({ length: DRAFTS }, () => {
        const { do: _kind, ...params } = randomOperation(estate, basis, random, type);
        const context = () => contextFor(basis, 0, 0);
        const half = Object.fromEntries(Object.entries(params).filter((_, k) => k % 2 === 0));
        const forms = [half, params].map((draft) => type.foretell(estate, draft, context()));
        const { steps, refusals } = planChange(estate, [{ do: kind, ...params }], basis);
        const said =
          refusals.length > 0
            ? refusals.map(({ code, field, message }) => `${code} at ${field}: ${message}`).join(' | ')
            : steps.map((step) => step.title).join(' | ');
        const does = steps.map(({ effects, notes, takes, destroys, next }) => ({
          effects,
          notes,
          takes,
          destroys,
          next,
        }));
        return `${said} [form ${hash(forms)}, does ${hash(does)}, mends ${hash(refusals)}]`;
      });
      return [kind, lines];
    }),
  );
}
