'use client';
import type { Figure } from '@/core/change/preview';
import { kindWords, type Kind } from '@/core/estate/entities';

/** Figures that move, before and after. */
export function Figures({ figures, caption = 'Before and after' }: { figures: readonly Figure[]; caption?: string }) {
  if (figures.length === 0) return null;
  return (
    <>
      <h2 className="caps pt-4 pb-1">{caption}</h2>
      <table className="table" aria-label={caption}>
        <thead>
          <tr>
            <th className="caps">What</th>
            <th className="caps">Figure</th>
            <th className="caps right">Before</th>
            <th className="caps right">After</th>
          </tr>
        </thead>
        <tbody>
          {figures.map((figure) => (
            <tr key={`${figure.subject.kind} ${figure.subject.name} ${figure.label}`}>
              <td>
                {figure.subject.name === 'Estate' ? 'Estate' : <span className="name">{figure.subject.name}</span>}{' '}
                {figure.subject.name !== 'Estate' && (
                  <span className="narrow text-ink2">{kindWords[figure.subject.kind as Kind]}</span>
                )}
              </td>
              <td>{figure.label}</td>
              <td className="num right text-ink2">{figure.before ?? '–'}</td>
              <td className="num right">
                <b>{figure.after ?? '–'}</b>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
