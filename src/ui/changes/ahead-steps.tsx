import type { ChangeView } from '@/core/change/record';

/** Steps that come next, with what is said of each and what would be lost. */
export function AheadSteps({ ahead, label }: { ahead: ChangeView['ahead']; label: string }) {
  return (
    <ol aria-label={label}>
      {ahead.map(({ title, device, notes, destroys, refusal }, k) => (
        <li
          key={k}
          className={`flex items-baseline gap-2 border-b border-rule-faint py-1 ${refusal ? 'text-red' : ''}`}
        >
          <span className="step-square ml-0! self-start">{k + 1}</span>
          <span className="min-w-0 flex-1 break-words">
            {title}
            {device !== null && <span className="narrow text-ink2"> on {device}</span>}
            {refusal && <span className="text-ink"> {refusal.mend}</span>}
            {notes.map((note) => (
              <span key={note} className="block text-ink2">
                {note}
              </span>
            ))}
            {destroys && <span className="block text-red">Lost for good: {destroys}.</span>}
          </span>
        </li>
      ))}
    </ol>
  );
}
