import type { NextConfig } from 'next';

const config: NextConfig = {
  poweredByHeader: false,
  reactStrictMode: true,
  devIndicators: false,
  // The tests check the types of everything; a start need not do it again.
  typescript: { ignoreBuildErrors: true },
};

export default config;
