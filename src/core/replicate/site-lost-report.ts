import type { EstateView } from '../estate/estate';
import { formatBytes } from '../units/bytes';
import { momentText } from '../units/date';
import { formatDuration, type Milliseconds } from '../units/duration';
import { lastDrill } from './drill-view';
import { markdownTable } from './markdown';
import { siteLost, type LossVerdict } from './site-lost';

const backText = (one: Extract<LossVerdict, { verdict: 'back-to' }>): string =>
  `${momentText(one.pit)} at ${one.site}, ${one.lag === 0 ? 'nothing lost' : `${formatDuration(one.lag)} and about ${formatBytes(Math.round(one.risk), 'used')} lost`}`;

/** What the loss of a site would leave of each workload, as a document for whoever plans (Markdown); null where no array stands there. */
export function siteLostReport(view: EstateView, site: string, now: Milliseconds): string | null {
  const { sites, rows } = siteLost(view, now);
  const at = sites.findIndex((name) => name.toLowerCase() === site.toLowerCase());
  if (at < 0) return null;
  const name = sites[at]!;
  const verdicts = rows.map((row) => ({ ...row, one: row.lost[at]! }));
  const of = <V extends LossVerdict['verdict']>(verdict: V) =>
    verdicts.flatMap((row) =>
      row.one.verdict === verdict ? [{ name: row.name, one: row.one as Extract<LossVerdict, { verdict: V }> }] : [],
    );
  const back = of('back-to')
    .map((row) => ({ ...row, replication: view.table('replication').get(row.one.replication)! }))
    .sort((a, b) => a.replication.tier - b.replication.tier || a.name.localeCompare(b.name));
  const drilled = (id: string): string => {
    const drill = lastDrill(view, id);
    return drill ? `${formatDuration(drill.total)} in ${drill.name}` : 'never rehearsed';
  };
  const section = (title: string, lines: readonly string[], none: string) => [
    '',
    `## ${title}`,
    '',
    ...(lines.length > 0 ? lines : [none]),
  ];
  return [
    `# Were ${name} lost`,
    '',
    `As of ${momentText(now)} UTC: ${of('goes-on').length} workloads go on, ${back.length} come back elsewhere, ${of('nothing').length} are lost.`,
    ...section(
      'Comes back',
      back.length === 0
        ? []
        : markdownTable(
            ['Turn', 'Workload', 'Back to', 'To be back within', 'Took'],
            back.map(({ name: workload, one, replication }) => [
              String(replication.tier),
              workload,
              backText(one),
              replication.goal === null ? 'nothing promised' : formatDuration(replication.goal),
              drilled(replication.id),
            ]),
          ),
      'Nothing.',
    ),
    ...section(
      'Is lost',
      of('nothing').length === 0
        ? []
        : markdownTable(
            ['Workload', 'Why'],
            of('nothing').map((row) => [row.name, row.one.why]),
          ),
      'Nothing.',
    ),
    ...section(
      'Goes on',
      of('goes-on').map((row) => `- ${row.name}`),
      'Nothing.',
    ),
    '',
  ].join('\n');
}
