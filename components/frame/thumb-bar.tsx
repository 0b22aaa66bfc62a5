"use client";
import { Footprints, House, Play, Siren, Timer } from "lucide-react";
import Link from "next/link";
import { usePathname, useSearchParams } from "next/navigation";
import { useWorkspace } from "@/components/draft/site-draft";
import { classes } from "@/components/kit/classes";

/** On a phone, below everything: the jobs in the field, each within reach of one thumb. */
export function ThumbBar() {
  const { siteId } = useWorkspace("siteId");
  const path = usePathname();
  const view = useSearchParams().get("view");
  const at = (screen: string): string => `/sites/${siteId}/${screen}`;
  const jobs = [
    { name: "Site", icon: House, href: at("findings"), here: path === at("findings") },
    { name: "Walk", icon: Footprints, href: at("stations"), here: path === at("stations") },
    {
      name: "Learn, prove",
      icon: Timer,
      href: `${at("learn")}?view=field`,
      here: path === at("learn") && view === "field",
    },
    { name: "Alarms", icon: Siren, href: at("log"), here: path === at("log") && view !== "visits" },
    {
      name: "Run",
      icon: Play,
      href: `${at("controllers")}?view=run`,
      here: path === at("controllers") && view === "run",
    },
  ];
  return (
    <nav
      aria-label="Jobs in the field"
      className="no-print dock z-30 border-t border-base-content bg-base-200 text-xs sm:hidden"
    >
      {jobs.map(({ name, icon: Icon, href, here }) => (
        <Link
          key={name}
          href={href}
          aria-current={here ? "page" : undefined}
          className={classes("min-h-12", here && "bg-base-content text-base-100 font-semibold")}
        >
          <Icon className="size-5" aria-hidden />
          {name}
        </Link>
      ))}
    </nav>
  );
}
