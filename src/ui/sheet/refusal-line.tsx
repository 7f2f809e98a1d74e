'use client';
import type { Refusal } from '@/core/operation/refusal';
import { usePlace } from '../shell/place';

/** Why something cannot be done, what would mend it, and the way there where an operation does. */
export function RefusalLine({ refusal }: { refusal: Pick<Refusal, 'message' | 'mend' | 'offer' | 'operation'> }) {
  const { openStep } = usePlace();
  const { message, mend, offer, operation } = refusal;
  return (
    <div className="refusal mt-2" role="alert">
      {operation === undefined ? '' : `Operation ${operation + 1}: `}
      {message} <span className="text-ink">{mend}</span>
      {offer && (
        <button type="button" className="verb ml-2 text-ink" onClick={() => openStep(offer)}>
          {offer.label}
        </button>
      )}
    </div>
  );
}
