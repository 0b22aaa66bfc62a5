"use client";
import { Droplets, Footprints, ListChecks, type LucideIcon, Siren, Timer } from "lucide-react";
import { useWorkspace } from "@/components/draft/site-draft";

const JOBS: readonly (readonly [job: string, name: string, icon: LucideIcon])[] = [
  ["site", "Site", Droplets],
  ["walk", "Walk", Footprints],
  ["learn", "Learn, prove", Timer],
  ["alarms", "Alarms", Siren],
  ["visit", "Visit", ListChecks],
];

/** On a phone, below the office's pages: the way into the field, each job within reach of one thumb. */
export function ThumbBar() {
  const { siteId } = useWorkspace("siteId");
  return (
    <nav
      aria-label="Jobs in the field"
      className="no-print dock z-30 border-t border-base-content bg-base-200 text-xs sm:hidden"
    >
      {JOBS.map(([job, name, Icon]) => (
        // A page of its own, that the phone keeps: the office's router does not lead to it.
        <a key={job} href={`/field?site=${siteId}&job=${job}`} className="min-h-12">
          <Icon className="size-5" aria-hidden />
          {name}
        </a>
      ))}
    </nav>
  );
}
