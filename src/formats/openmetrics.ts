/** A family of metrics as OpenMetrics 1.0 writes it. */
export interface MetricFamily {
  name: string;
  help: string;
  unit?: string;
  samples: { labels: Readonly<Record<string, string>>; value: number }[];
}

const escaped = (text: string): string => text.replace(/\\/g, '\\\\').replace(/"/g, '\\"').replace(/\n/g, '\\n');
const number = (value: number): string => (value === Infinity ? '+Inf' : String(value));

/** Gauges in the text format of OpenMetrics, ended as scrapers want it. */
export function writeOpenMetrics(families: readonly MetricFamily[]): string {
  const lines: string[] = [];
  for (const { name, help, unit, samples } of families) {
    lines.push(`# TYPE ${name} gauge`);
    if (unit) lines.push(`# UNIT ${name} ${unit}`);
    lines.push(`# HELP ${name} ${escaped(help)}`);
    for (const { labels, value } of samples) {
      const said = Object.entries(labels)
        .map(([label, text]) => `${label}="${escaped(text)}"`)
        .join(',');
      lines.push(`${name}${said === '' ? '' : `{${said}}`} ${number(value)}`);
    }
  }
  lines.push('# EOF');
  return `${lines.join('\n')}\n`;
}
