"use client";
import { useMemo, useState } from "react";
import { computeParted } from "@/components/draft/compute";
import { useNight, useWorkspace } from "@/components/draft/site-draft";
import { useJob } from "@/components/draft/use-job";
import { useNightOf } from "@/components/draft/use-night-of";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { Mark, Problem } from "@/components/kit/notice";
import type { PartedNight, PartedNights } from "@/core/optimize/parted-night";
import { applyChanges, settingChanges } from "@/core/optimize/settings-changes";
import type { SiteFile } from "@/core/site-file/schema";
import { settingWords } from "./setting-words";
import { SideBySide } from "./side-by-side";

const SECONDS = 20;
/** More groups are shown when asked for. */
const GROUPS_SHOWN = 6;

/** Stations that no reading tells from each other, and a night's order that parts them. */
export function NeverApart({ groups, name }: { groups: string[][]; name: Map<string, string> }) {
  const { canEdit } = useWorkspace("canEdit");
  const [all, setAll] = useState(false);
  if (groups.length === 0) return null;
  const shown = all ? groups : groups.slice(0, GROUPS_SHOWN);
  return (
    <section aria-label="Never apart" className="mb-6">
      <h3 className="mb-1 text-lg">Never apart</h3>
      <p className="max-w-prose text-sm text-faint">
        These always ran together, so that no reading tells one from the other. A night on which they run apart once
        would.
      </p>
      <ul className="list-disc pl-5">
        {shown.map((g) => (
          <li key={g.join()}>{g.map((id) => name.get(id) ?? id).join(" and ")}</li>
        ))}
      </ul>
      {groups.length > GROUPS_SHOWN && (
        <Button rank="quiet" aria-expanded={all} onClick={() => setAll(!all)}>
          {all ? "Show fewer" : `${groups.length - GROUPS_SHOWN} more`}
        </Button>
      )}
      {canEdit && <Parting groups={groups} name={name} />}
    </section>
  );
}

type Found = { site: SiteFile; date: string; nights: PartedNights };

/** The order of the night that is looked at, so that it parts them: what it costs, what changes, and the order taken. */
function Parting({ groups, name }: { groups: string[][]; name: Map<string, string> }) {
  const { draft, date, edit } = useWorkspace("draft", "date", "edit");
  const { day } = useConventions();
  const night = useNight();
  const [found, setFound] = useState<Found | null>(null);
  const [longer, setLonger] = useState(false);
  const { share, problem, start, cancel } = useJob<PartedNights>();
  const searching = share !== null;
  const stale = found !== null && (found.site !== draft || found.date !== date) && !searching;
  const search = (): void => {
    const keep = (nights: PartedNights): void => setFound({ site: draft, date, nights });
    setFound(null);
    setLonger(false);
    void start(() => computeParted(draft, date, { seconds: SECONDS, groups }, keep)).then(
      (nights) => nights && keep(nights),
    );
  };
  const picked = found && (longer ? found.nights.most : found.nights.free);
  const after = useMemo(() => (found && picked ? { ...found.site, programs: picked.programs } : null), [found, picked]);
  const changes = useMemo(() => (found && after ? settingChanges(found.site, after) : []), [found, after]);
  const other = useNightOf(searching || changes.length === 0 ? null : after, date);
  const take = (): void => {
    if (after) edit((f) => applyChanges(f, after, new Set(changes.map((c) => c.id))));
    setFound(null);
  };
  const parts = found && found.nights.most.together.length < found.nights.free.together.length;
  return (
    <div className="mt-2">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        {searching ? (
          <Button onClick={cancel}>Stop, keep what is found</Button>
        ) : (
          <Button onClick={search} disabled={!night || night.plan.runs.length === 0}>
            An order for {day(date)} that parts them
          </Button>
        )}
        {searching && (
          <span role="status" className="inline-flex items-center gap-2">
            <span className="loading loading-spinner loading-sm" aria-hidden /> {found?.nights.tries ?? 0} orders tried
          </span>
        )}
        {night?.plan.runs.length === 0 && <span className="text-faint">Nothing runs that night.</span>}
        {stale && (
          <span className="text-warning">
            <Mark tone="caution" /> the site or the night has changed since; search again
          </span>
        )}
      </div>
      {problem && <Problem>{problem}</Problem>}
      {found && picked && !searching && (
        <>
          <p role="status" className="mt-2">
            {verdict(found.nights, picked, groups.length, name)}
          </p>
          {parts && (
            <Button rank="quiet" onClick={() => setLonger(!longer)}>
              {longer
                ? "The one that takes no longer"
                : `One that parts more, ${costOf(found.nights.most, found.nights.now)}`}
            </Button>
          )}
        </>
      )}
      {found && picked && !searching && !stale && changes.length > 0 && (
        <>
          <ul className="list-disc pl-5">
            {changes.map((c) => (
              <li key={c.id}>{settingWords(draft, c)}</li>
            ))}
          </ul>
          <p className="max-w-prose text-sm text-faint">
            Taken, saved and sent it holds from then on; the order as it was is in the site&apos;s history.
          </p>
          <Button rank="main" className="my-2" onClick={take}>
            Take this order into the draft
          </Button>
          {night && other && after && (
            <SideBySide
              before={{ site: found.site, night }}
              after={{ site: after, night: other, name: "Parted" }}
              date={date}
            />
          )}
        </>
      )}
    </div>
  );
}

/** What an order costs beside the night as it is. */
function costOf({ makespanS }: PartedNight, now: PartedNight): string {
  const more = Math.round((makespanS - now.makespanS) / 60);
  if (more > 0) return `for ${more} min more of night`;
  return more < 0 ? `in a night ${-more} min shorter` : "at no cost in minutes";
}

/** What an order parts, what it leaves, and what it costs. */
function verdict(nights: PartedNights, picked: PartedNight, groups: number, name: Map<string, string>): string {
  const { now, asked } = nights;
  const idle = groups - asked;
  const rest = idle > 0 ? ` ${idle === 1 ? "One group does" : `${idle} groups do`} not run that night.` : "";
  if (asked === 0) return `None of them runs that night.`;
  if (now.together.length === 0) return `That night parts them as it is.${rest}`;
  const left = picked.together.map((g) => g.map((id) => name.get(id) ?? id).join(" with ")).join("; ");
  const parted = left === "" ? "All that run are parted" : `Parted but for ${left}`;
  const moved = `${picked.moved} ${picked.moved === 1 ? "station" : "stations"} in another place of the order`;
  return picked === now
    ? `No order was found that parts more than the night does as it is; ${left} stay together.${rest}`
    : `${parted}, ${costOf(picked, now)}: ${moved}.${rest}`;
}
