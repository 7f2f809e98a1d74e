import type { Drill } from '../estate/entities';
import { momentText } from '../units/date';
import { formatDuration, type Milliseconds } from '../units/duration';
import { markdownTable } from './markdown';
import { partTook } from './rehearse-time';

export const isGood = ({ parts }: Pick<Drill, 'parts'>): boolean =>
  parts.every(({ found }) => found.every(({ good }) => good));
/** Workloads that are to be back sooner than the drill was. */
export const isOver = ({ parts, total }: Pick<Drill, 'parts' | 'total'>): string[] =>
  parts.filter(({ goal }) => goal !== null && total > goal).map(({ name }) => name);

const goalText = (goal: Milliseconds | null): string => (goal === null ? 'nothing promised' : formatDuration(goal));

/** What a drill found, as a document for whoever asks (Markdown, CommonMark with tables). */
export function drillReport(drill: Drill): string {
  const over = isOver(drill);
  const tiers = [...new Set(drill.parts.map(({ tier }) => tier))].sort((a, b) => a - b);
  return [
    `# ${drill.name}`,
    '',
    `A failover to ${drill.site} was rehearsed at ${drill.host} on ${momentText(drill.startedAt)} UTC, while copying went on. ${drill.endedAt === null ? 'Its volumes still stand.' : `It ended on ${momentText(drill.endedAt)} UTC.`}`,
    '',
    `**Back within ${formatDuration(drill.total)}**${over.length > 0 ? `, too late for ${over.join(', ')}` : ''}. ${isGood(drill) ? 'All that was looked at is good.' : 'Not all that was looked at is good.'}`,
    '',
    '## Time',
    '',
    ...markdownTable(
      ['What', 'Took'],
      [
        ['noticing', formatDuration(drill.detect)],
        ['deciding', formatDuration(drill.decide)],
        ...drill.tiers.map((took, k) => [`turn ${tiers[k]}, ${drill.hands} at once`, formatDuration(took)]),
        ['in all', formatDuration(drill.total)],
      ],
    ),
    ...drill.parts.flatMap((part) => [
      '',
      `## ${part.name}`,
      '',
      `Turn ${part.tier}. Back to ${momentText(part.pit, true)} UTC, ${part.lag === 0 ? 'nothing lost' : `${formatDuration(part.lag)} lost`}; to be back within: ${goalText(part.goal)}.`,
      '',
      ...markdownTable(
        ['Task', 'Took'],
        [...part.tasks.map(({ what, took }) => [what, formatDuration(took)]), ['all', formatDuration(partTook(part))]],
      ),
      '',
      ...markdownTable(
        ['Volume', 'Good', 'Found'],
        part.found.map(({ volume, good, says }) => [volume, good ? 'yes' : 'no', says]),
      ),
    ]),
    '',
  ].join('\n');
}
