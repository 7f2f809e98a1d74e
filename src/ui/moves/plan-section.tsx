import type { WavePlanRow } from '@/core/moving/answers';
import { counted } from '@/core/units/counted';
import { formatBytes } from '@/core/units/bytes';
import { momentText } from '@/core/units/date';
import { usePlace } from '../shell/place';
import type { Axis } from './axis';
import { Bounds } from './bounds';
import { MoveLine } from './move-row';

/** One plan: its waves with their moves, when each is whole, and what bounds it. */
export function PlanSection({
  plan,
  axis,
  now,
  chosen,
  onChoose,
}: {
  plan: WavePlanRow;
  axis: Axis;
  now: number;
  chosen: string | null;
  onChoose: (id: string) => void;
}) {
  const { open } = usePlace();
  const count = plan.groups.reduce((sum, { moves }) => sum + moves.length, 0);
  return (
    <div role="group" aria-label={plan.name} className="relative">
      <div className="flex flex-wrap items-baseline gap-x-3 border-b border-ink bg-paper px-3 pt-2 pb-1">
        <b className="text-[15px] font-[700] [font-stretch:84%]">{plan.name}</b>
        <span className="num min-w-0 flex-1 whitespace-normal! text-ink2">
          {counted(count, 'move')}
          {count > 0 &&
            `, ${formatBytes(plan.bytes, 'used')}, ${Math.round((plan.copied / Math.max(1, plan.bytes)) * 100)} % copied`}
          {plan.id !== null && `; ${plan.words}, ${plan.slots} at once on an array`}
          {plan.held && <b className="font-[640] text-red">; held</b>}
          {plan.problem && <b className="font-[640] text-red"> ✕ {plan.problem}</b>}
        </span>
        {plan.id !== null && (
          <span className="flex gap-3">
            <button
              type="button"
              className="verb"
              onClick={() => open(plan.held ? 'wave-plan.go-on' : 'wave-plan.hold', { plan: plan.name })}
            >
              {plan.held ? 'Go on' : 'Hold'}
            </button>
            <button type="button" className="verb" onClick={() => open('wave-plan.configure', { plan: plan.name })}>
              Change
            </button>
            {count === 0 && (
              <button type="button" className="verb" onClick={() => open('wave-plan.delete', { plan: plan.name })}>
                Put away
              </button>
            )}
          </span>
        )}
      </div>
      {count === 0 && <p className="px-3 py-1.5 text-ink2">Nothing goes by it now.</p>}
      {plan.groups.map((group) => (
        <div key={group.name} role="presentation">
          {(group.name !== '' || plan.groups.length > 1) && (
            <div className="flex items-baseline gap-3 border-b border-rule bg-raised px-3 py-0.5">
              <b className="font-[640]">{group.name || 'Each by itself'}</b>
              <span className="num min-w-0 flex-1 truncate text-ink2">
                {formatBytes(group.bytes, 'used')}
                {group.readyAt !== null && `, whole ${momentText(group.readyAt)}`}
                {group.name !== '' && ', then a person confirms them together'}
              </span>
              {group.canConfirm && (
                <button
                  type="button"
                  className="verb font-[640]!"
                  onClick={() => open('move.confirm', { moves: group.moves.map(({ name }) => name) })}
                >
                  Confirm {group.name}
                </button>
              )}
            </div>
          )}
          <div
            role="listbox"
            aria-label={`${plan.name}: ${group.name || 'each by itself'}`}
            aria-activedescendant={group.moves.some(({ id }) => id === chosen) ? `move-${chosen}` : undefined}
            tabIndex={0}
          >
            {group.moves.map((row) => (
              <MoveLine key={row.id} row={row} axis={axis} now={now} chosen={row.id === chosen} onChoose={onChoose} />
            ))}
          </div>
        </div>
      ))}
      <Bounds plan={plan} axis={axis} />
    </div>
  );
}
