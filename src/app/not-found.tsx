import Link from 'next/link';

export default function NotFound() {
  return (
    <main className="bg-paper p-4">
      <h1 className="sheet-title">There is no such page</h1>
      <p className="py-2 text-ink2">
        <Link className="verb" href="/">
          Back to the Span
        </Link>
      </p>
    </main>
  );
}
