"use client";
import dynamic from "next/dynamic";
import { useCallback, useState } from "react";
import { SiteDraft, useWorkspace } from "@/components/draft/site-draft";
import { SiteLogProvider } from "@/components/draft/site-log";
import { useOthersSaves } from "@/components/draft/use-others";
import { ConventionsProvider } from "@/components/kit/conventions";
import { InBrowser } from "@/components/kit/in-browser";
import type { LogFacts } from "@/contracts/log";
import type { SiteFile } from "@/core/site-file/schema";
import { AlarmToasts } from "./alarm-toasts";
import type { CommandMode } from "./command-line";
import { KeyHelp } from "./key-help";
import { SearchEverything, useSearching } from "./search";
import { LeaveGuard, useLeave } from "./leave-guard";
import { SaveStrip } from "./save-strip";
import { TellLine } from "./tell-line";
import { ThumbBar } from "./thumb-bar";
import { TopRow } from "./top-row";
import { useScreenKeys } from "./use-screen-keys";

/** Loaded when it is first asked for. */
const CommandLine = dynamic(() => import("./command-line").then((m) => m.CommandLine), { ssr: false });

type Props = {
  siteId: string;
  file: SiteFile;
  version: number;
  role: string;
  userName: string;
  today: string;
  log: LogFacts;
  /** The version of the logo on the organisation's paper; null: it has none. */
  logo: string | null;
  children: React.ReactNode;
};

/** The row as it will stand, before it is filled. */
const ROW = <header className="h-14 border-b border-base-content bg-base-200" aria-busy="true" />;

export function SiteFrame({ log, logo, today, children, ...site }: Props) {
  return (
    <SiteDraft {...site} date={today}>
      <SiteLogProvider first={log}>
        <LeaveGuard siteId={site.siteId}>
          <InBrowser until={ROW}>
            <Frame logo={logo}>{children}</Frame>
          </InBrowser>
        </LeaveGuard>
      </SiteLogProvider>
    </SiteDraft>
  );
}

/** Figures and dates as the site writes them. */
function SiteConventions({ children }: { children: React.ReactNode }) {
  const { units, draft } = useWorkspace("units", "draft");
  return (
    <ConventionsProvider system={units} timeZone={draft.site.timeZone}>
      {children}
    </ConventionsProvider>
  );
}

/** Row, screen, save strip, tell-line; on a phone the thumb bar below them. */
function Frame({ logo, children }: { logo: string | null; children: React.ReactNode }) {
  const [help, setHelp] = useState(false);
  // Undefined until it is first asked for; null while it is closed, which gives the focus back.
  const [command, setCommand] = useState<CommandMode | null>();
  const onKeys = useCallback(() => setHelp(true), []);
  const onCommand = useCallback(() => setCommand("all"), []);
  useOthersSaves();
  const leave = useLeave();
  const { searching, onSearch, onClose } = useSearching();
  useScreenKeys({ onKeys, onCommand, onSearch });
  return (
    <SiteConventions>
      <a href="#screen" className="btn btn-neutral absolute left-2 top-2 z-50 -translate-y-24 focus:translate-y-0">
        Skip to the screen
      </a>
      <div className="flex min-h-dvh flex-col pb-16 sm:pb-0">
        <TopRow onKeys={onKeys} onSearch={onSearch} onSites={() => setCommand("sites")} />
        <main id="screen" tabIndex={-1} className="min-w-0 grow px-4 pb-4 outline-none">
          {/* biome-ignore lint/performance/noImgElement: only paper shows it, and it is behind the sign-in */}
          {logo && <img src={`/api/organisation/logo/picture?v=${logo}`} alt="" className="print-only mb-2 max-h-16" />}
          {children}
        </main>
        <div className="no-print sticky bottom-16 z-20 sm:bottom-0">
          <SaveStrip />
          <TellLine onKeys={onKeys} />
        </div>
        <ThumbBar />
      </div>
      <AlarmToasts />
      <KeyHelp open={help} onClose={() => setHelp(false)} />
      {searching !== undefined && <SearchEverything open={searching} onClose={onClose} go={leave} />}
      {command !== undefined && <CommandLine mode={command} onClose={() => setCommand(null)} />}
    </SiteConventions>
  );
}
