import type { Metadata } from 'next';
import { headers } from 'next/headers';
import { Suspense } from 'react';
import { Providers } from '@/ui/shell/providers';
import { Shell } from '@/ui/shell/shell';
import './globals.css';

export const metadata: Metadata = { title: 'Trabes', description: 'Block storage from the drives to the host’s disk.' };

export default async function RootLayout({ children }: { children: React.ReactNode }) {
  const nonce = (await headers()).get('x-nonce') ?? '';
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <Providers nonce={nonce}>
          <Suspense>
            <Shell>{children}</Shell>
          </Suspense>
        </Providers>
      </body>
    </html>
  );
}
