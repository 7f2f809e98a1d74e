import type { ListedCheck } from '@/core/replicate/check-list';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';

/** What must hold of storage over two sites, line by line, with what would mend it. */
export function CheckList({ checks }: { checks: readonly ListedCheck[] }) {
  const { openStep } = usePlace();
  const failing = checks.filter(({ holds }) => !holds).length;
  return (
    <section aria-label="Check-list">
      <h2 className="caps pt-3 pb-1">
        Check-list
        {failing === 0 ? ', all holds' : `, ${failing} of ${checks.length} ${failing === 1 ? 'does' : 'do'} not hold`}
      </h2>
      <ul className="narrow">
        {checks.map(({ asks, holds, says, mend }) => (
          <li key={asks} className="flex items-center gap-2 border-b border-rule-faint py-0.5">
            <StatePost post={holds ? 'stands' : 'broken'} />
            <span>{asks}</span>
            <span className={`min-w-0 flex-1 truncate ${holds ? 'text-ink2' : 'text-red'}`} title={says}>
              {says}
            </span>
            {mend && (
              <button type="button" className="verb" onClick={() => openStep(mend)}>
                {mend.label}
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
