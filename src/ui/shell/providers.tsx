'use client';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { setNonce } from 'get-nonce';
import { ThemeProvider } from 'next-themes';
import { useState } from 'react';

export function Providers({ nonce, children }: { nonce: string; children: React.ReactNode }) {
  const [client] = useState(() => {
    if (typeof window !== 'undefined') setNonce(nonce);
    return new QueryClient({
      defaultOptions: { queries: { refetchOnWindowFocus: false, retry: 1, staleTime: Infinity } },
    });
  });
  return (
    <ThemeProvider attribute="data-theme" nonce={nonce} defaultTheme="system" disableTransitionOnChange>
      <QueryClientProvider client={client}>{children}</QueryClientProvider>
    </ThemeProvider>
  );
}
