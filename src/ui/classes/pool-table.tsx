import type { RuleOutcome } from '@/core/classes/rules';
import type { FactKey } from '@/core/service/answers';
import type { PlaceAnswer, PoolAnswer } from '@/core/service/place';
import { mediaFigures } from '@/core/raid/media';
import { mediaClasses, type MediaClass } from '@/core/estate/entities';
import { formatBytes } from '@/core/units/bytes';
import { formatCount } from '@/core/units/figures';
import type { PlaceQuestion } from '../api/client';
import { useParam } from '../shell/place';

const meanings: { readonly [outcome: string]: string } = { pass: 'fulfilled', fail: 'not fulfilled' };

/** Keys that the columns after the facts say better, and those that are seldom asked for. */
const elsewhere = new Set(['room', 'headroom']);
const seldom = new Set(['sector', 'copies', 'reduction']);
/** Facts for which there is room beside the request. */
const COLUMNS = 6;
const NARROW = 3;
const marks: Record<RuleOutcome, string> = { pass: '✓', fail: '✕', unknown: '?', type: '?' };

/** The comparison and the value of a rule without its key. */
const wanted = (text: string, key: string): string =>
  text
    .replace(new RegExp(`^(not: )?${key} `), '$1')
    .split(/(?<=[ ,])/)
    .map((word) => word.replace(/[\w-]+/, (plain) => sayValue(key, plain)))
    .join('');
const keyOf = (text: string): string => text.replace(/^not: /, '').split(' ')[0]!;

/** A value as people say it. */
export const sayValue = (key: string, value: string): string =>
  key === 'media' && (mediaClasses as readonly string[]).includes(value)
    ? mediaFigures[value as MediaClass].label
    : value;

/** Pools by their facts, laid under the request: which fit, by score, and what speaks against the others. */
export function PoolTable({
  keys,
  answer,
  picked,
  onPick,
  says,
  request,
}: {
  keys: readonly FactKey[];
  answer: PlaceAnswer | undefined;
  picked: string;
  onPick: (pool: string) => void;
  says: string;
  request: PlaceQuestion;
}) {
  const rules = answer?.rules ?? [];
  const [whole, setWhole] = useParam('facts');
  const asked = new Set(rules.map(({ text }) => keyOf(text)));
  // What is asked for is always shown; of the rest as much as there is room for, what people ask for most first.
  const able = keys.filter(({ key }) => !elsewhere.has(key) || asked.has(key));
  // A fact with its mark and what was wanted of it is wider than one that is only told.
  const columns = asked.size >= COLUMNS - 1 ? asked.size : COLUMNS;
  const usual = (key: string) => (asked.has(key) ? 0 : 1 + Number(seldom.has(key)));
  const some = [...able].sort((a, b) => usual(a.key) - usual(b.key)).slice(0, columns);
  const shown = (whole === 'all' ? able : able.filter((one) => some.includes(one))).sort(
    (a, b) => Number(b.derived) - Number(a.derived),
  );
  const derived = shown.filter((one) => one.derived).length;
  // Beside a sheet there is room for some of what is asked for: what comes of it is to be seen too.
  const beside = asked.size > NARROW + 1 ? NARROW : Math.max(asked.size, NARROW);
  const narrow = new Set(some.slice(beside).map(({ key }) => key));
  const seen = (key: string) => (whole !== 'all' && narrow.has(key) ? '@max-[860px]:hidden' : '');
  return (
    <section aria-label="Pools" className="overflow-x-auto px-3 pt-1 [&_td]:align-baseline!">
      <table className="table w-full" aria-label="Pools and the request">
        <thead>
          <tr className="narrow text-ink2 @max-[860px]:hidden">
            <th />
            <th colSpan={derived} className="text-left font-normal!">
              derived, as read
            </th>
            {shown.length > derived && (
              <th colSpan={shown.length - derived} className="text-left font-normal!">
                declared by a person
              </th>
            )}
            <th colSpan={3} className="text-left font-normal!">
              after it is given
            </th>
          </tr>
          <tr className="caps [&_th]:align-bottom!">
            <th>Pool</th>
            {shown.map(({ key, says: what, unit }) => (
              <th key={key} title={what} className={seen(key)}>
                {key}
                {unit && (
                  <span className="narrow block font-normal whitespace-nowrap text-ink2 normal-case">{unit}</span>
                )}
              </th>
            ))}
            <th className="text-right!" title="Left up to the urgent mark">
              Room
              <span className="narrow block font-normal whitespace-nowrap text-ink2 normal-case">below the mark</span>
            </th>
            <th className="text-right!" title="I/O a second left at the busiest hour with one part failed">
              IO/s
              <span className="narrow block font-normal whitespace-nowrap text-ink2 normal-case">one part out</span>
            </th>
            <th>
              Score
              <span className="narrow block font-normal whitespace-nowrap text-ink2 normal-case">of 100</span>
            </th>
          </tr>
        </thead>
        <tbody className="num">
          <tr className="bg-marker font-[640] [&_td]:text-(--on-marker)!">
            <td>The request</td>
            {shown.map(({ key }) => (
              <td key={key} className={seen(key)}>
                {rules
                  .filter(({ text }) => keyOf(text) === key)
                  .map(({ text }) => wanted(text, key))
                  .join(', ')}
              </td>
            ))}
            <td className="text-right">
              {request.volumes > 1 && `${request.volumes} × `}
              {request.size}
            </td>
            <td className="text-right">{request.iops > 0 ? formatCount(request.iops) : 'any'}</td>
            <td>{says}</td>
          </tr>
          {answer?.pools.map((pool, k) => (
            <Row
              key={pool.id}
              pool={pool}
              place={pool.score === null ? null : k + 1}
              shown={shown}
              seen={seen}
              rules={rules.map(({ text }) => text)}
              picked={picked === pool.id}
              onPick={() => onPick(picked === pool.id ? '' : pool.id)}
            />
          ))}
        </tbody>
      </table>
      <p className="narrow flex items-baseline gap-4 py-1 text-ink2">
        <span>✓ fulfilled</span>
        <span>
          <span className="text-red">✕</span> not fulfilled
        </span>
        <span>
          <span className="text-red">?</span> not known, which does not count as fulfilled
        </span>
        <button type="button" className="verb" onClick={() => setWhole(whole === 'all' ? '' : 'all')}>
          {whole === 'all' ? 'Fewer facts' : 'All facts'}
        </button>
        <span className="flex-1" />
        <span>best first, then fewest reasons against</span>
      </p>
    </section>
  );
}

function Row({
  pool,
  place,
  shown,
  seen,
  rules,
  picked,
  onPick,
}: {
  pool: PoolAnswer;
  place: number | null;
  shown: readonly FactKey[];
  /** Of a key that is left out where there is little room. */
  seen: (key: string) => string;
  rules: readonly string[];
  picked: boolean;
  onPick: () => void;
}) {
  const muted = place === null ? 'text-ink2' : '';
  return (
    <tr className={picked ? 'bg-raised' : ''}>
      <td className="name whitespace-nowrap">
        {place === null ? '' : `${place} `}
        <button type="button" className="verb" aria-pressed={picked} onClick={onPick}>
          {pool.name}
        </button>{' '}
        <span className="narrow font-normal text-ink2">{pool.array}</span>
      </td>
      {shown.map(({ key }) => {
        const value = pool.facts.find((one) => one.key === key)?.value;
        const judged = rules.flatMap((text, k) => (keyOf(text) === key ? [[text, pool.outcomes[k]!] as const] : []));
        const worst = judged.find(([, outcome]) => outcome !== 'pass') ?? judged[0];
        const says = value === undefined ? 'not known' : sayValue(key, value);
        if (!worst)
          return (
            <td key={key} className={`${muted} ${seen(key)}`}>
              {value === undefined ? '–' : says}
            </td>
          );
        const [text, outcome] = worst;
        const meaning = meanings[outcome] ?? 'not known';
        return (
          <td
            key={key}
            className={`${outcome === 'pass' ? muted : 'text-red'} ${seen(key)}`}
            title={`${key}: ${says}, ${text}: ${meaning}`}
          >
            <span aria-label={meaning}>{marks[outcome]}</span>{' '}
            <span className={outcome === 'fail' ? 'line-through' : ''}>{says}</span>
          </td>
        );
      })}
      <td className={`text-right whitespace-nowrap ${pool.roomBytes < 0 ? 'text-red' : muted}`}>
        {pool.roomBytes < 0 ? '−' : ''}
        {formatBytes(Math.abs(pool.roomBytes))}
      </td>
      <td className={`text-right ${pool.iopsLeft < 0 ? 'text-red' : muted}`} title={pool.shortAt}>
        {pool.iopsLeft < 0 ? '−' : ''}
        {formatCount(Math.abs(Math.round(pool.iopsLeft)))}
      </td>
      <td className="whitespace-nowrap">
        {pool.score === null ? (
          <span className="narrow text-ink2" title={pool.against.join('; ')}>
            {pool.short}
          </span>
        ) : (
          <span className="flex items-center gap-2">
            <span className="inline-block h-[7px] w-14 border border-rule" aria-hidden>
              <span className="block h-full bg-ink" style={{ width: `${pool.score}%` }} />
            </span>
            <b className="font-[640]">{pool.score.toFixed(1)}</b>
          </span>
        )}
      </td>
    </tr>
  );
}
