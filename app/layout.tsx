import type { Metadata, Viewport } from "next";
import { cookies } from "next/headers";
import { DataProvider } from "@/components/data/data-provider";
import { LanguageProvider } from "@/components/kit/conventions";
import { language } from "@/contracts/people";
import { Awake } from "@/components/frame/awake";
import { LANGUAGE_COOKIE, THEME_COOKIE } from "@/server/auth/session";
import "./globals.css";

export const metadata: Metadata = {
  title: "Presa",
  description: "Hydraulic capacity, learned flows and flow limits for commercial irrigation sites",
};
export const viewport: Viewport = { width: "device-width", initialScale: 1 };
export const dynamic = "force-dynamic";

export default async function RootLayout({ children }: { children: React.ReactNode }) {
  const jar = await cookies();
  const theme = jar.get(THEME_COOKIE)?.value === "night" ? "night" : "day";
  const dates = language.safeParse(jar.get(LANGUAGE_COOKIE)?.value);
  return (
    <html lang="en" data-theme={theme}>
      <body inert>
        <LanguageProvider language={dates.data ?? "en"}>
          <DataProvider>{children}</DataProvider>
        </LanguageProvider>
        <Awake />
      </body>
    </html>
  );
}
