import type { NextConfig } from "next";

const config: NextConfig = {
  reactStrictMode: true,
  poweredByHeader: false,
  serverExternalPackages: ["knex", "pg", "pg-boss", "@node-rs/argon2", "pino"],
  // bin/test runs the type check itself, over the whole tree.
  typescript: { ignoreBuildErrors: true },
  devIndicators: false,
};

export default config;
