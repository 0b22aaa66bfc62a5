import type { Metadata, Viewport } from "next";
import { cookies } from "next/headers";
import { DataProvider } from "@/components/data/data-provider";
import { Awake } from "@/components/frame/awake";
import { THEME_COOKIE } from "@/server/auth/session";
import "./globals.css";

export const metadata: Metadata = {
  title: "Presa",
  description: "Hydraulic capacity, learned flows and flow limits for commercial irrigation sites",
};
export const viewport: Viewport = { width: "device-width", initialScale: 1 };
export const dynamic = "force-dynamic";

export default async function RootLayout({ children }: { children: React.ReactNode }) {
  const theme = (await cookies()).get(THEME_COOKIE)?.value === "night" ? "night" : "day";
  return (
    <html lang="en" data-theme={theme}>
      <body inert>
        <DataProvider>{children}</DataProvider>
        <Awake />
      </body>
    </html>
  );
}
