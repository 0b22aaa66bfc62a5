import type { NextConfig } from "next";

const config: NextConfig = {
  reactStrictMode: true,
  poweredByHeader: false,
  serverExternalPackages: ["knex", "pg", "pg-boss", "@node-rs/argon2", "pino", "piscina", "prom-client"],
  // bin/test runs the type check itself, over the whole tree.
  typescript: { ignoreBuildErrors: true },
  devIndicators: false,
  // On everything, files included; pages have their own policy beside these (proxy.ts).
  headers: async () => [
    {
      source: "/:path*",
      headers: [
        { key: "x-content-type-options", value: "nosniff" },
        { key: "referrer-policy", value: "same-origin" },
        { key: "cross-origin-opener-policy", value: "same-origin" },
        { key: "permissions-policy", value: "geolocation=(), microphone=(), payment=(), usb=()" },
        ...(process.env["PRESA_HTTPS"] === "1"
          ? [{ key: "strict-transport-security", value: "max-age=31536000" }]
          : []),
      ],
    },
    {
      source: "/api/:path*",
      headers: [{ key: "content-security-policy", value: "default-src 'none'; frame-ancestors 'none'" }],
    },
  ],
};

export default config;
