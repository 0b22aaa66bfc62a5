"use client";
import { Droplets, Footprints, ListChecks, Siren, Timer } from "lucide-react";
import { useTranslations } from "next-intl";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { useSiteHere } from "./site-here";
import { JOBS, usePlace } from "./use-place";

const ICONS = { site: Droplets, walk: Footprints, learn: Timer, alarms: Siren, visit: ListChecks };

/** Below everything, within reach of one thumb: the five jobs. */
export function JobBar() {
  const t = useTranslations("jobs");
  const { site } = useSiteHere();
  const { job, go } = usePlace();
  const open = site.alarms.filter((a) => a.state === "open").length;
  return (
    <nav aria-label={t("name")} className="dock z-30 h-[4.5rem] border-t-2 border-base-content bg-base-200">
      {JOBS.map((j) => {
        const Icon = ICONS[j];
        return (
          <Button
            key={j}
            rank="bare"
            aria-current={j === job ? "page" : undefined}
            className={classes(
              "relative min-h-16 text-center text-xs",
              j === job && "bg-base-content font-semibold text-base-100",
            )}
            onClick={() => go({ job: j })}
          >
            <Icon className="size-6" aria-hidden />
            {t(j)}
            {j === "alarms" && open > 0 && (
              <span className="badge badge-sm badge-error absolute right-1 top-0.5">{open}</span>
            )}
          </Button>
        );
      })}
    </nav>
  );
}
