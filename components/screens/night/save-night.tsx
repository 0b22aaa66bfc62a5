"use client";
import { CalendarDays, FileImage, FileSpreadsheet } from "lucide-react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { fileStem, saveText } from "@/components/kit/save-file";
import { Braid } from "@/components/pictures/braid/braid";
import { type braidOf, noEarlierThan } from "@/components/pictures/braid/braid-data";
import { runsCsv } from "@/core/exports/runs-csv";
import type { NightAnswer } from "@/core/summary/night-answer";

/** The night as files: its runs, its picture, and six weeks of it for a calendar. */
export function SaveNight({
  data,
  night,
  onDone,
}: {
  data: NonNullable<ReturnType<typeof braidOf>>;
  night: NightAnswer;
  onDone: () => void;
}) {
  const { draft, units, date } = useWorkspace("draft", "units", "date");
  const name = `${fileStem(draft)}-${date}`;
  const picture = async (): Promise<void> => {
    const { standaloneSvg } = await import("@/components/pictures/drawing/export-picture");
    saveText(
      await standaloneSvg(
        <Braid
          site={draft}
          data={data}
          units={units}
          width={1200}
          pxPerMinute={Math.max(1, Math.min(4, 760 / ((data.to - data.from) / 60)))}
          noEarlierThan={noEarlierThan(night.plan)}
          selected={null}
          onSelect={() => {}}
          waterline={data.from}
          onWaterline={() => {}}
        />,
      ),
      `${name}-braid.svg`,
      "image/svg+xml",
    );
    onDone();
  };
  const calendar = async (): Promise<void> => {
    const { wateringCalendar } = await import("@/core/exports/watering-calendar");
    saveText(
      wateringCalendar(draft, date, 42, new Date().toISOString()),
      `${fileStem(draft)}-watering.ics`,
      "text/calendar",
    );
    onDone();
  };
  return (
    <>
      <Button rank="quiet" icon={FileImage} className="justify-start" onClick={picture}>
        Picture (SVG)
      </Button>
      <Button
        rank="quiet"
        icon={FileSpreadsheet}
        className="justify-start"
        onClick={() => {
          saveText(runsCsv(draft, night.plan.runs), `${name}-runs.csv`, "text/csv");
          onDone();
        }}
      >
        Runs (CSV)
      </Button>
      <Button rank="quiet" icon={CalendarDays} className="justify-start" onClick={calendar}>
        Six weeks (iCalendar)
      </Button>
    </>
  );
}
