import { useMemo } from 'react';
import type { TierPolicyAnswer } from '@/core/performance/heat-map';
import { usePlace } from '../shell/place';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';

/** Every tier policy, in words, with who is under it. */
export function TierPolicies({ policies, array }: { policies: readonly TierPolicyAnswer[]; array: string }) {
  const { open } = usePlace();
  const columns = useMemo<AnyColumn<TierPolicyAnswer>[]>(
    () => [
      { head: 'Policy', value: ({ name }) => name, kind: 'name' },
      { head: 'Array', value: (one) => one.array, kind: 'muted', width: 'w-28' },
      { head: 'Says', value: ({ says }) => says },
      { head: 'On', value: ({ volumes }) => volumes.join(', ') || 'nothing' },
      { head: 'Notes', value: ({ notes }) => notes, kind: 'muted' },
      {
        head: 'Do',
        deeds: (one) => (
          <span className="flex gap-3">
            <button
              type="button"
              className="verb"
              onClick={() => open('tier-policy.configure', { array: one.array, policy: one.name, shares: one.shares })}
            >
              Change
            </button>
            <button
              type="button"
              className="verb"
              onClick={() => open('tier-policy.apply', { array: one.array, policy: one.name })}
            >
              Put on
            </button>
            <button
              type="button"
              className="verb"
              disabled={one.volumes.length === 0}
              onClick={() => open('tier-policy.lift', { array: one.array, volumes: one.volumes })}
            >
              Take off
            </button>
            <button
              type="button"
              className="verb"
              onClick={() => open('tier-policy.delete', { array: one.array, policy: one.name })}
            >
              Drop
            </button>
          </span>
        ),
      },
    ],
    [open],
  );
  return (
    <section aria-label="Tier policies" className="px-3 py-2 [&_td]:align-baseline!">
      <h2 className="flex items-baseline gap-4 pb-2">
        <b className="text-[16px] font-[700] [font-stretch:84%]">Tier policies</b>
        <button type="button" className="verb" onClick={() => open('tier-policy.create', { array })}>
          Set a tier policy
        </button>
      </h2>
      {policies.length === 0 ? (
        <p className="text-ink2">None: heat alone decides where data lies.</p>
      ) : (
        <DataTable label="Tier policies" rows={policies} keyOf={({ id }) => id} columns={columns} />
      )}
    </section>
  );
}
