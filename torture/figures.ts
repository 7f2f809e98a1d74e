/** What a torture counts: figures that tell how much was done, and those that must stay 0. */
export class Figures {
  private readonly counts = new Map<string, number>();
  private readonly worst = new Map<string, number>();
  private readonly faults = new Map<string, string[]>();

  add(name: string, by = 1): void {
    this.counts.set(name, (this.counts.get(name) ?? 0) + by);
  }

  /** Keeps the largest value. */
  most(name: string, value: number): void {
    this.worst.set(name, Math.max(this.worst.get(name) ?? 0, value));
  }

  /** Something that must not be; the first few are kept with their words. */
  fault(name: string, words: string): void {
    const list = this.faults.get(name) ?? [];
    list.push(words);
    this.faults.set(name, list);
  }

  get failed(): boolean {
    return this.faults.size > 0;
  }

  /** A table for people, and the first of each fault below it. */
  print(): void {
    const rows: [string, string][] = [
      ...[...this.counts].map(([name, count]): [string, string] => [name, count.toLocaleString('en')]),
      ...[...this.worst].map(([name, value]): [string, string] => [`${name}, most`, value.toFixed(0)]),
      ...[...this.faults].map(([name, list]): [string, string] => [`FAULT: ${name}`, String(list.length)]),
    ];
    const width = Math.max(...rows.map(([name]) => name.length));
    for (const [name, value] of rows) console.log(`${name.padEnd(width)}  ${value.padStart(12)}`);
    for (const [name, list] of this.faults)
      for (const words of list.slice(0, 5)) console.log(`\n${name}: ${words.slice(0, 1200)}`);
  }
}
