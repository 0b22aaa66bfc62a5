"use client";
import { Download, Eye, Mail } from "lucide-react";
import { useState } from "react";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import { Button, ButtonLink } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { DateField } from "@/components/kit/date-field";
import { Mark } from "@/components/kit/notice";
import { useLanguage } from "@/components/kit/conventions";
import { Segments } from "@/components/kit/segments";
import { IN_LANGUAGES, PAPER_WORDS, PAPERS, type Paper, type PaperSize } from "@/contracts/paper";
import { LANGUAGE_WORDS, type Language, language } from "@/contracts/people";
import { addMonths, localDate } from "@/core/dates/wall-time";
import { MailDialog } from "./mail-dialog";
import { PaperPages } from "./paper-pages";

const SIZE_WORDS: Record<PaperSize, string> = { A4: "A4", LETTER: "US Letter" };

/** Sheets of the site as PDF: looked at here, or taken away; made on the server from what is saved. */
export function PaperView() {
  const { siteId, draft, version, units, canEdit } = useWorkspace("siteId", "draft", "version", "units", "canEdit");
  const unsaved = useChanges().length;
  const today = localDate(draft.site.timeZone, Math.floor(Date.now() / 1000));
  const [size, setSize] = useState<PaperSize>(units === "us" ? "LETTER" : "A4");
  const [from, setFrom] = useState(`${addMonths(today, -11).slice(0, 7)}-01`);
  const [to, setTo] = useState(today);
  const [crewReads, setCrewReads] = useState<Language>(useLanguage());
  const [shown, setShown] = useState<Paper | null>(null);
  const [mailed, setMailed] = useState<Paper | null>(null);
  const addressOf = (paper: Paper, download: boolean): string => {
    const asked = new URLSearchParams({ size });
    if (IN_LANGUAGES.has(paper)) asked.set("language", crewReads);
    if (PAPER_WORDS[paper].dated) {
      asked.set("from", from);
      asked.set("to", to);
    }
    if (download) asked.set("download", "1");
    return `/api/sites/${siteId}/paper/${paper}?${asked}`;
  };
  return (
    <div className="grid gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,29rem)_minmax(0,1fr)]">
      <div className="min-w-0">
        <div className="mb-3 flex flex-wrap items-end gap-3">
          <Segments
            label="Size of paper"
            options={(["A4", "LETTER"] as const).map((id) => ({ id, label: SIZE_WORDS[id] }))}
            at={size}
            onChange={setSize}
          />
          <DateField
            label="Times from"
            required
            max={to}
            value={from}
            onCommit={(v) => v && setFrom(v)}
            className="w-36"
          />
          <DateField label="to" required min={from} value={to} onCommit={(v) => v && setTo(v)} className="w-36" />
        </div>
        <p className="text-xs text-faint" aria-hidden>
          Walk list and emergency card in
        </p>
        <Segments
          label="Walk list and emergency card in"
          className="mb-3"
          options={language.options.map((id) => ({ id, label: LANGUAGE_WORDS[id] }))}
          at={crewReads}
          onChange={setCrewReads}
        />
        {unsaved > 0 && (
          <p className="mb-2 text-warning">
            <Mark tone="caution" /> Paper is made of what is saved: {unsaved} change{unsaved > 1 ? "s are" : " is"} not
            on it.
          </p>
        )}
        <ul aria-label="Paper">
          {PAPERS.map((paper) => {
            const { title, about, dated } = PAPER_WORDS[paper];
            return (
              <li
                key={paper}
                className={classes("border-b border-base-300 py-2", paper === shown && "bg-base-200 px-2")}
              >
                <h3 className="font-semibold">{title}</h3>
                <p className="text-faint">
                  {about}
                  {dated ? " For the time above." : ""}
                </p>
                <div className="mt-1 flex gap-2">
                  <Button icon={Eye} aria-label={`Look at the ${title.toLowerCase()}`} onClick={() => setShown(paper)}>
                    Look at it
                  </Button>
                  <ButtonLink rank="quiet" icon={Download} href={addressOf(paper, true)} download>
                    <span>
                      Download<span className="sr-only"> the {title.toLowerCase()}</span>
                    </span>
                  </ButtonLink>
                  {canEdit && (
                    <Button
                      rank="quiet"
                      icon={Mail}
                      aria-label={`Send the ${title.toLowerCase()} by mail`}
                      onClick={() => setMailed(paper)}
                    >
                      By mail…
                    </Button>
                  )}
                </div>
              </li>
            );
          })}
        </ul>
      </div>
      <div className="min-w-0">
        {shown ? (
          <PaperPages
            key={`${addressOf(shown, false)} ${version}`}
            address={addressOf(shown, false)}
            title={PAPER_WORDS[shown].title}
          />
        ) : (
          <p className="text-faint">Choose a sheet to look at it here before it is printed or sent.</p>
        )}
      </div>
      {mailed && (
        <MailDialog
          address={`/api/sites/${siteId}/paper/${mailed}`}
          title={PAPER_WORDS[mailed].title}
          asked={{
            size,
            ...(PAPER_WORDS[mailed].dated ? { from, to } : {}),
            ...(IN_LANGUAGES.has(mailed) ? { language: crewReads } : {}),
          }}
          onClose={() => setMailed(null)}
        />
      )}
    </div>
  );
}
