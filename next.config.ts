import type { NextConfig } from 'next';

const config: NextConfig = {
  poweredByHeader: false,
  reactStrictMode: true,
  agentRules: false,
  allowedDevOrigins: ['127.0.0.1'],
  experimental: { agentUpgrade: false },
};

export default config;
