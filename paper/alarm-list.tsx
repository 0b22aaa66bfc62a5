import { localIso } from "../core/dates/wall-time.ts";
import { writtenDate } from "../core/dates/written.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { showQuantity } from "../core/units/units.ts";
import { Grid, Part, Title, Words } from "./parts.tsx";

/** An alarm as paper tells it. */
export type AlarmOnPaper = {
  at: string;
  message: string;
  rehearsed: boolean;
  state: string;
  cause: string | null;
  clearedBy: string | null;
  clearedAt: string | null;
  lostL: number | null;
};

/** What was found in a time, what it was and what was done about it; what was rehearsed on the bench is none of it. */
export function AlarmList({
  site,
  alarms,
  from,
  to,
}: {
  site: SiteFile;
  alarms: readonly AlarmOnPaper[];
  from: string;
  to: string;
}) {
  const { timeZone, units } = site.site;
  const moment = (iso: string): string => {
    const local = localIso(timeZone, Math.floor(Date.parse(iso) / 1000));
    return `${writtenDate(local.slice(0, 10), units)} ${local.slice(11, 16)}`;
  };
  const real = alarms.filter((a) => !a.rehearsed);
  const open = real.filter((a) => a.state !== "cleared").length;
  return (
    <>
      <Title>Alarms</Title>
      <Words strong>
        {writtenDate(from, units)} to {writtenDate(to, units)}
      </Words>
      <Words>
        {real.length === 0
          ? "Nothing was found in this time."
          : `${real.length} found, ${open === 0 ? "all cleared" : `${open} still open`}.`}
      </Words>
      {real.length > 0 && (
        <Part title="One by one">
          <Grid
            columns={[
              { head: "When", share: 15 },
              { head: "What was read", share: 40 },
              { head: "Cause, as found", share: 20 },
              { head: "Cleared", share: 17 },
              { head: "Lost", share: 9, right: true },
            ]}
            rows={real.map((a) => [
              moment(a.at),
              a.message,
              a.cause ?? "",
              a.clearedAt ? `${moment(a.clearedAt)}, ${a.clearedBy ?? ""}` : a.state,
              a.lostL === null ? "" : showQuantity(a.lostL, "volume", units, 0),
            ])}
          />
        </Part>
      )}
    </>
  );
}
