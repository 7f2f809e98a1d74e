import type { NextConfig } from 'next';

const config: NextConfig = {
  poweredByHeader: false,
  reactStrictMode: true,
  // The server talks to its own machine: packing what it sends costs more than it saves.
  compress: false,
  agentRules: false,
  headers: async () => [{ source: '/:path*', headers: [{ key: 'x-content-type-options', value: 'nosniff' }] }],
  allowedDevOrigins: ['127.0.0.1'],
  experimental: { agentUpgrade: false },
};

export default config;
