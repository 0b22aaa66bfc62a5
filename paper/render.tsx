import { renderToBuffer } from "@react-pdf/renderer";
import type { ReactNode } from "react";
import { IN_LANGUAGES, PAPER_WORDS, type Paper, type PaperSize } from "../contracts/paper.ts";
import type { Language } from "../contracts/people.ts";
import type { WaterUsed } from "../contracts/water.ts";
import { writtenDate } from "../core/dates/written.ts";
import type { KeptProfile } from "../core/profiles/profile.ts";
import { roundSite } from "../core/profiles/round-site.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { AlarmList, type AlarmOnPaper } from "./alarm-list.tsx";
import { AsBuilt } from "./as-built.tsx";
import { DeviceList } from "./device-list.tsx";
import { drawn } from "./drawing.tsx";
import { EmergencyCard } from "./emergency-card.tsx";
import { wordsIn } from "./in-language.ts";
import { Sheet } from "./parts.tsx";
import { SetupSheet } from "./setup-sheet.tsx";
import { WalkList } from "./walk-list.tsx";
import { WaterReport } from "./water-report.tsx";

/** What a sheet is made of. @property date today, where the site is @property used of the water report @property alarms of the alarms of a time */
export type PaperOf = {
  kind: Paper;
  size: PaperSize;
  /** Of the sheets that the crew works by; the others are the office's, in English. */
  language: Language;
  site: SiteFile;
  version: number;
  date: string;
  organisation: string;
  /** As a data address. */
  logo: string | null;
  profiles: KeptProfile[];
  used: WaterUsed | null;
  alarms: { list: AlarmOnPaper[]; from: string; to: string } | null;
};

/** A sheet as a PDF. In a thread: a large book takes seconds. */
export async function renderPaper(of: PaperOf): Promise<Uint8Array> {
  const { site, version, date } = of;
  const language = languageOf(of);
  const t = wordsIn(language, "paper");
  return renderToBuffer(
    <Sheet
      title={titleOf(of.kind, language)}
      site={site.site.name}
      organisation={of.organisation}
      logo={of.logo}
      size={of.size}
      asOf={t("asOf", { version: String(version), date: writtenDate(date, site.site.units, language) })}
      pageOf={(page, pages) => t("page", { page, pages })}
    >
      {await contents(of)}
    </Sheet>,
  );
}

const languageOf = ({ kind, language }: PaperOf): Language => (IN_LANGUAGES.has(kind) ? language : "en");
function titleOf(kind: Paper, language: Language): string {
  if (kind === "walk") return wordsIn(language, "paper")("walkTitle");
  return kind === "emergency" ? wordsIn(language, "emergency")("title") : PAPER_WORDS[kind].title;
}

async function contents({ kind, language, site, date, profiles, used, alarms }: PaperOf): Promise<ReactNode> {
  switch (kind) {
    case "setup":
      return <SetupSheet site={roundSite(site, profiles).site} date={date} />;
    case "walk":
      return <WalkList site={site} t={wordsIn(language, "paper")} />;
    case "emergency":
      return <EmergencyCard site={site} t={wordsIn(language, "emergency")} />;
    case "devices":
      return <DeviceList site={site} date={date} />;
    case "asBuilt":
      return <AsBuilt site={site} date={date} drawing={await drawn(site)} written={roundSite(site, profiles).site} />;
    case "water":
      return used && <WaterReport site={site} used={used} />;
    case "alarms":
      return alarms && <AlarmList site={site} alarms={alarms.list} from={alarms.from} to={alarms.to} />;
  }
}
