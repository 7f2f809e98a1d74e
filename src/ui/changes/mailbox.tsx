'use client';
import { useQuery } from '@tanstack/react-query';
import Link from 'next/link';
import { momentText } from '@/core/units/date';
import { api } from '../api/client';

/** What would have been sent: nothing leaves the lab. */
export function Mailbox() {
  const mail = useQuery({ queryKey: ['mail'], queryFn: api.mail });
  const items = mail.data?.items ?? [];
  if (mail.error) return <p className="refusal">The mailbox was asked for. {mail.error.message}</p>;
  if (mail.isSuccess && items.length === 0)
    return (
      <p className="py-2 text-ink2">
        Nothing was sent yet. Runs and moves write when they are over or wait for somebody.
      </p>
    );
  return (
    <table className="table w-full" aria-label="Mailbox">
      <thead>
        <tr className="caps">
          <th>Lab time</th>
          <th>To</th>
          <th>Subject</th>
          <th>What it says</th>
        </tr>
      </thead>
      <tbody>
        {items.map((row, k) => (
          <tr key={k}>
            <td className="mono whitespace-nowrap">{momentText(row.atLab)}</td>
            <td className="whitespace-nowrap">{row.recipient}</td>
            <td>
              <Link className="verb whitespace-normal!" href={row.link}>
                {row.subject}
              </Link>
            </td>
            <td className="whitespace-normal! text-ink2">{row.body}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
