"use client";
import { CircleUserRound, Search } from "lucide-react";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { useEffect } from "react";
import { IconButton } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { Menu } from "@/components/kit/menu";
import type { Role } from "@/contracts/people";
import { ROLES } from "@/contracts/roles";
import { AlarmToasts } from "./alarm-toasts";
import { SearchEverything, usePageKeys, useSearching } from "./search";
import { PersonActions } from "./top-row";

const PAGES = [
  ["/", "Rounds"],
  ["/alarms", "Alarms"],
  ["/calendar", "Calendar"],
  ["/water", "Water"],
  ["/controllers", "Controllers"],
  ["/many", "Many sites"],
  ["/library", "Library"],
  ["/profiles", "Kinds of controller"],
  ["/organisation", "Organisation"],
] as const;
/** Who finds something there: the least role; all where none is named. */
const LEAST: Record<string, Role> = { "/organisation": "manager", "/many": "technician" };
const mayOpen = (href: string, who: string): boolean => {
  const least = LEAST[href];
  const role = ROLES.find((r) => who.endsWith(`, ${r}`));
  return least === undefined || (role !== undefined && ROLES.indexOf(role) >= ROLES.indexOf(least));
};

/** The rows over pages that belong to the organisation, not to a site: the same height and order as a site's. */
export function PageHead({
  title,
  who,
  views,
  about,
  tools,
  main,
}: {
  title: string;
  /** Name and role of who is signed in. */
  who: string;
  /** Ways to look at it, after the title. */
  views?: React.ReactNode;
  /** A few words after them. */
  about?: React.ReactNode;
  tools?: React.ReactNode;
  main?: React.ReactNode;
}) {
  const router = useRouter();
  const { searching, onSearch, onClose } = useSearching();
  usePageKeys(onSearch);
  useEffect(() => {
    document.title = `${title} · Presa`;
  }, [title]);
  return (
    <>
      <p className="print-only mx-4 border-b border-base-content font-semibold">Presa · {title}</p>
      <header className="no-print sticky top-0 z-30 flex h-14 items-center gap-5 border-b border-base-content bg-base-200 px-4">
        <span className="text-lg font-semibold">Presa</span>
        <nav aria-label="Pages" className="flex min-w-0 gap-1 overflow-x-auto">
          {PAGES.filter(([href]) => mayOpen(href, who)).map(([href, name]) => (
            <Link
              key={href}
              href={href}
              aria-current={name === title ? "page" : undefined}
              className={classes(
                "whitespace-nowrap border-b-[3px] px-2 py-1",
                name === title ? "border-base-content font-semibold" : "border-transparent hover:border-base-300",
              )}
            >
              {name}
            </Link>
          ))}
        </nav>
        <div className="ml-auto flex items-center gap-1">
          <IconButton label="Search everything" icon={Search} onClick={onSearch} />
          <Menu label={<CircleUserRound className="size-5" aria-hidden />} name={who} end>
            {() => <PersonActions who={who} />}
          </Menu>
        </div>
      </header>
      <AlarmToasts />
      {searching !== undefined && <SearchEverything open={searching} onClose={onClose} go={(to) => router.push(to)} />}
      <section
        aria-label={`About ${title}`}
        className="no-print sticky top-14 z-20 mb-3 flex min-h-10 flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 bg-base-100 px-4 py-1"
      >
        <h1 className="text-xl">{title}</h1>
        {views}
        {about && <span className="text-faint">{about}</span>}
        <div className="ml-auto flex min-w-0 max-w-full flex-wrap items-center gap-1">
          {tools}
          {main}
        </div>
      </section>
    </>
  );
}
