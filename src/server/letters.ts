import type { ChangeRow, MailRow } from '@/core/change/record';

/** What would be written to somebody about a run. */
export const letter = (change: ChangeRow, atLab: number, subject: string, body: string): MailRow => ({
  atLab,
  recipient: change.run?.mail || 'storage desk',
  subject,
  body,
  link: `/changes?sheet=change&with=${encodeURIComponent(JSON.stringify({ id: change.id }))}`,
});

/** What is written at the end of a run: it is done, or what it did was taken back. */
export function ended(change: ChangeRow, now: number): MailRow[] {
  if (change.run === null) return [];
  return change.state === 'done'
    ? [letter(change, now, `${change.title} is done`, `Approved by ${change.run.approvedBy}; all steps stand.`)]
    : [letter(change, now, `${change.title} was taken back`, change.problem?.message ?? 'Somebody took it back.')];
}
