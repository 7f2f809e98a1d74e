import type { PoolAnswer } from '@/core/service/place';
import { placeTerms, type PlaceTerm } from '@/core/place/rank';

const termWords: Record<PlaceTerm, string> = {
  capacity: 'Room',
  performance: 'IO/s left',
  replicaCapacity: 'Room for the copy',
  replicaPerformance: 'IO/s for the copy',
  fit: 'Room and IO/s together',
  runway: 'How long it lasts',
  preference: 'Preferred',
};

/** Why a pool is ranked as it is, term by term; or what speaks against it. */
export function WhyBest({ best }: { best: PoolAnswer }) {
  return (
    <div className="px-4 py-2">
      <h3 className="caps">
        {best.score === null ? `Against ${best.name} on ${best.array}` : `Why ${best.name} on ${best.array}`}
      </h3>
      {best.score === null ? (
        <ul className="list-disc pl-4">
          {best.against.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </ul>
      ) : (
        <table className="table w-full">
          <tbody className="num">
            {placeTerms.flatMap((term) => {
              const value = best.terms[term];
              if (value === undefined) return [];
              return [
                <tr key={term}>
                  <td>{termWords[term]}</td>
                  <td>
                    <span className="inline-block h-[7px] w-24 border border-rule" aria-hidden>
                      <span className="block h-full bg-ink" style={{ width: `${value * 100}%` }} />
                    </span>
                  </td>
                  <td className="text-right">{value.toFixed(2)}</td>
                </tr>,
              ];
            })}
          </tbody>
        </table>
      )}
      {best.replica && <p className="pt-1 text-ink2">Its copy goes to {best.replica}.</p>}
    </div>
  );
}
