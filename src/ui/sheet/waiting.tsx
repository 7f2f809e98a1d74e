'use client';
import { useWork } from '../shell/told';

/** How far the server is with what was asked of it, and a way to take the request back. */
export function Waiting({ id, words, onCancel }: { id: string; words: string; onCancel: () => void }) {
  const work = useWork();
  const share = work?.id === id && work.of > 0 ? work.done / work.of : null;
  return (
    <span role="status" className="flex min-w-0 flex-1 items-center gap-3">
      <span className="num text-ink2">
        {share === null ? `${words}…` : `${work!.what}: ${Math.floor(share * 100)} %`}
      </span>
      <progress aria-label={words} className="work flex-1" max={1} {...(share === null ? {} : { value: share })} />
      <button type="button" className="verb" onClick={onCancel}>
        Take it back
      </button>
    </span>
  );
}
