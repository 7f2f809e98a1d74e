'use client';
import { useQuery } from '@tanstack/react-query';
import type { HeatMap } from '@/core/performance/heat-map';
import { counted } from '@/core/units/counted';
import { api } from '../api/client';
import { usePlace } from '../shell/place';
import { HeatStrip } from './heat-strip';
import { TierPolicies } from './tier-policies';
import { percentText, waitText } from './words';

/** Where the heat of pools of several classes lies, and what placing by heat would gain. */
export function HeatPage({ onLook }: { onLook: (id: string) => void }) {
  const heat = useQuery({ queryKey: ['load', 'heat'], queryFn: api.loadHeat });
  if (heat.error) return <p className="refusal m-3">{heat.error.message}</p>;
  if (!heat.data) return <p className="p-3 text-ink2">Adding up what each extent is asked…</p>;
  if (heat.data.items.length === 0)
    return <p className="p-3 text-ink2">No pool has more than one class of media: heat has nowhere to go.</p>;
  return (
    <div className="scroller @container min-h-0 flex-1">
      {heat.data.items.map((map) => (
        <Pool key={map.pool} map={map} onLook={onLook} />
      ))}
      <TierPolicies policies={heat.data.policies} array={heat.data.items[0]!.array} />
    </div>
  );
}

function Pool({ map, onLook }: { map: HeatMap; onLook: (id: string) => void }) {
  const { open } = usePlace();
  const ms = (value: number | null) => waitText(value === null ? null : value / 1000);
  return (
    <section aria-label={`${map.array} ${map.name}`} className="border-b border-ink px-3 py-2">
      <h2 className="flex items-baseline gap-3">
        <b className="text-[16px] whitespace-nowrap font-[700] [font-stretch:84%]">
          {map.array} {map.name}
        </b>
        <span className="num min-w-0 whitespace-normal! text-ink2">
          {map.serviceMs === null
            ? 'Nobody asks anything of it that is known.'
            : `What misses the cache takes ${ms(map.serviceMs)} at the media; placed by heat it would take ${ms(map.bestMs)}. ${percentText(map.gains)} of the heat would move to a faster class.`}
        </span>
      </h2>
      {map.refusal && (
        <p className="refusal mt-1">
          {map.refusal}{' '}
          <button
            type="button"
            className="verb"
            onClick={() =>
              open('tier-policy.configure', {
                array: map.array,
                policy: map.volumes.find(({ policy }) => policy !== null)?.policy ?? '',
              })
            }
          >
            Widen the bounds
          </button>
        </p>
      )}
      <p className="flex items-baseline gap-4 pt-1">
        <button
          type="button"
          className="verb"
          onClick={() => open('pool.place-by-heat', { array: map.array, name: map.name })}
        >
          Place by heat
        </button>
        <span className="text-ink2">
          {map.how === 'optimal' ? 'The best that rooms and bounds allow.' : 'A good placement, perhaps not the best.'}{' '}
          Extents move {map.window}.
        </span>
        <button
          type="button"
          className="verb"
          onClick={() => open('pool.heat-window', { array: map.array, name: map.name })}
        >
          Change when
        </button>
      </p>
      <HeatStrip map={map} />
      <div className="grid grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)] items-start gap-6 pt-2 @max-[900px]:grid-cols-1 [&_td]:align-baseline!">
        <table className="table w-full" aria-label={`Classes of ${map.name}`}>
          <thead>
            <tr className="caps">
              <th>Class</th>
              <th className="text-right!">Filled</th>
              <th>Heat there</th>
              <th>Placed by heat</th>
              <th className="text-right!">Cold there</th>
              <th className="text-right!">One access</th>
            </tr>
          </thead>
          <tbody className="num">
            {map.tiers.map((tier) => (
              <tr key={tier.media}>
                <td className="name">{tier.label}</td>
                <td className="text-right">{percentText(tier.capacity > 0 ? tier.used / tier.capacity : 0)}</td>
                <td>
                  <Share share={tier.heat} />
                </td>
                <td>
                  <Share share={tier.heatBest} />
                </td>
                <td className="text-right">{counted(tier.cold, 'extent')}</td>
                <td className="text-right">{ms(tier.serviceMs)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <table className="table w-full" aria-label={`Volumes of ${map.name}`}>
          <thead>
            <tr className="caps">
              <th>Volume</th>
              {map.tiers.map(({ media, label }) => (
                <th key={media} className="text-right!">
                  {label}
                </th>
              ))}
              <th className="text-right!">Now</th>
              <th className="text-right!">By heat</th>
              <th>Policy</th>
            </tr>
          </thead>
          <tbody className="num">
            {map.volumes.map((one) => (
              <tr key={one.id}>
                <td>
                  <button type="button" className="verb" onClick={() => onLook(one.id)}>
                    {one.name}
                  </button>
                </td>
                {one.shares.map((share, k) => (
                  <td key={map.tiers[k]!.media} className="text-right">
                    {one.serviceMs === null ? '–' : percentText(share)}
                  </td>
                ))}
                <td className="text-right">{ms(one.serviceMs)}</td>
                <td className="text-right font-[640]">{ms(one.bestMs)}</td>
                <td className="text-ink2">{one.policy ?? '–'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

/** A share as a bar with its number. */
function Share({ share }: { share: number }) {
  return (
    <span className="flex items-center gap-2">
      <span className="inline-block h-[7px] w-24 border border-rule" aria-hidden>
        <span className="block h-full bg-ink" style={{ width: `${share * 100}%` }} />
      </span>
      {percentText(share)}
    </span>
  );
}
