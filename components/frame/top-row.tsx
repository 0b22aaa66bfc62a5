"use client";
import {
  ChevronDown,
  CircleUserRound,
  Info,
  Keyboard,
  List,
  LogOut,
  MoonStar,
  Ruler,
  Search,
  Smartphone,
  Sun,
  UserRound,
} from "lucide-react";
import { useEffect, useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button, ButtonLink, IconButton } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { Menu } from "@/components/kit/menu";
import { request } from "@/components/data/request";
import { forgetPerson, personHere } from "@/components/field/store/person";
import { waitingOf, wipePhone } from "@/components/field/store/phone-db";
import { localIso } from "@/core/dates/wall-time";
import { PipeNav } from "./pipe-nav";
import { useTheme } from "./use-theme";

/** The one row that is always there: site and its time, the pipe, holds and lockouts, the person. */
export function TopRow({ onKeys, onSearch, onSites }: Record<"onKeys" | "onSearch" | "onSites", () => void>) {
  const { draft } = useWorkspace("draft");
  return (
    <header className="no-print sticky top-0 z-30 flex h-14 items-center gap-4 border-b border-base-content bg-base-200 px-4">
      <div className="flex min-w-0 items-center gap-1">
        <Button
          rank="quiet"
          className="h-auto min-w-0 py-0.5 text-left"
          onClick={onSites}
          aria-label={`${draft.site.name}: go to another site`}
        >
          <ChevronDown className="size-4 shrink-0" aria-hidden />
          <span className="min-w-0">
            <span className="block max-w-44 truncate text-base leading-tight">{draft.site.name}</span>
            <LocalTime timeZone={draft.site.timeZone} />
          </span>
        </Button>
        <h1 className="sr-only">{draft.site.name}</h1>
      </div>
      <div className="hidden min-w-0 grow sm:block">
        <PipeNav />
      </div>
      <div className="ml-auto flex items-center gap-2 sm:ml-0">
        <Held />
        <IconButton label="Search everything" icon={Search} onClick={onSearch} />
        <PersonMenu onKeys={onKeys} />
      </div>
    </header>
  );
}

function LocalTime({ timeZone }: { timeZone: string }) {
  const { day } = useConventions();
  const [now, setNow] = useState<string | null>(null);
  useEffect(() => {
    const show = (): void => setNow(localIso(timeZone, Math.floor(Date.now() / 1000)));
    show();
    const timer = setInterval(show, 10_000);
    return () => clearInterval(timer);
  }, [timeZone]);
  return (
    <span className="block whitespace-nowrap text-xs font-normal text-faint" title="The site's own time">
      {now ? `${day(now.slice(0, 10)).slice(0, -5)} ${now.slice(11, 16)}` : " "}
    </span>
  );
}

/** Loud on every page of the site: that it is off, and what is locked out. */
function Held() {
  const { draft } = useWorkspace("draft");
  const { date } = useConventions();
  const hold = draft.site.holdUntil;
  const locked = [
    ...[...draft.pocs, ...draft.mainlines].filter((e) => e.lockedOut).map((e) => e.name),
    ...draft.stations.filter((s) => s.lockedOut).map((s) => `${s.number} ${s.name}`),
  ];
  return (
    <>
      {hold && (
        <strong className="badge badge-error h-7 whitespace-nowrap text-sm">
          {hold === "indefinite" ? "OFF, no end set" : `Off until ${date(hold)}`}
        </strong>
      )}
      {locked.length > 0 && (
        <strong
          className="badge badge-error h-7 max-w-28 text-sm sm:max-w-52"
          title={`Locked out: ${locked.join(", ")}`}
        >
          <span className="truncate">
            Locked out: {locked[0]}
            {locked.length > 1 ? ` and ${locked.length - 1} more` : ""}
          </span>
        </strong>
      )}
    </>
  );
}

export function PersonMenu({ onKeys }: { onKeys?: () => void }) {
  const { siteId, userName, role, canEdit, units, toggleUnits } = useWorkspace(
    "siteId",
    "userName",
    "role",
    "canEdit",
    "units",
    "toggleUnits",
  );
  return (
    <Menu
      label={
        <>
          <CircleUserRound className="size-5" aria-hidden />
          {!canEdit && <span className="text-xs font-normal">looking only</span>}
        </>
      }
      name={`${userName}, ${role}${canEdit ? "" : " (looking only)"}`}
      end
    >
      {(close) => (
        <PersonActions
          who={`${userName}, ${role}`}
          before={
            <>
              <ButtonLink rank="quiet" icon={Info} className="justify-start" href={`/sites/${siteId}/about`}>
                About this site
              </ButtonLink>
              <Button rank="quiet" icon={Ruler} className="justify-start" onClick={toggleUnits} title="u">
                {units === "us" ? "US units" : "Metric"}: change
              </Button>
              {onKeys && (
                <Button
                  rank="quiet"
                  icon={Keyboard}
                  className="justify-start"
                  onClick={() => {
                    close();
                    onKeys();
                  }}
                >
                  Keys and words
                </Button>
              )}
            </>
          }
        />
      )}
    </Menu>
  );
}

/** What a person can do of their own anywhere: theme, leaving. */
export function PersonActions({ who, before }: { who: string; before?: React.ReactNode }) {
  const { theme, turn } = useTheme();
  const signOut = async (): Promise<void> => {
    const kept = personHere();
    // What was entered in the field on this device is asked about there first.
    if (kept && (await waitingOf(kept.id)) > 0) {
      window.location.assign("/field?leave");
      return;
    }
    await request("DELETE", "/api/session");
    if (kept) {
      await wipePhone(kept.id);
      forgetPerson(kept.id);
    }
    window.location.assign("/sign-in");
  };
  return (
    <>
      <p className="px-2 py-1 text-xs text-faint">{who}</p>
      {before}
      <Button rank="quiet" icon={theme === "day" ? MoonStar : Sun} className="justify-start" onClick={turn}>
        {theme === "day" ? "Night theme" : "Day theme"}
      </Button>
      <ButtonLink rank="quiet" className="justify-start" icon={UserRound} href="/account">
        Your account
      </ButtonLink>
      <ButtonLink rank="quiet" className="justify-start" icon={List} href="/">
        Rounds
      </ButtonLink>
      {/* A page of its own, that a phone keeps: the router does not lead to it. */}
      <a href="/field" className="btn btn-ghost btn-quiet justify-start">
        <Smartphone className="size-[1.1em] shrink-0" aria-hidden />
        In the field
      </a>
      <Button rank="quiet" icon={LogOut} className="justify-start" onClick={signOut}>
        Sign out
      </Button>
    </>
  );
}
