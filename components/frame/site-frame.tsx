"use client";
import { Button, ButtonLink } from "@/components/kit/button";
import { usePathname, useRouter } from "next/navigation";
import { useEffect, useState } from "react";
import { WorkspaceProvider, useWorkspace } from "@/components/draft/workspace";
import { localIso } from "@/core/dates/wall-time";
import type { SiteFile } from "@/core/site-file/schema";
import { SCREENS } from "@/core/summary/progress";
import { KeyHelp } from "./key-help";
import { PipeNav } from "./pipe-nav";
import { SaveBar } from "./save-bar";
import { TellLine } from "./tell-line";
import { ThemeSwitch } from "./theme-switch";
import { isTyping } from "../kit/typing";

type Props = {
  siteId: string;
  file: SiteFile;
  version: number;
  role: string;
  userName: string;
  today: string;
  log: { openAlarms: number; benchVersion: number | null };
  children: React.ReactNode;
};

export function SiteFrame(props: Props) {
  return (
    <WorkspaceProvider {...props}>
      <Frame userName={props.userName} role={props.role}>
        {props.children}
      </Frame>
    </WorkspaceProvider>
  );
}

function Frame({ userName, role, children }: { userName: string; role: string; children: React.ReactNode }) {
  const { draft, units, toggleUnits, canEdit } = useWorkspace();
  useScreenKeys();
  const locked = [...draft.pocs, ...draft.mainlines].filter((e) => e.lockedOut).map((e) => e.name);
  const lockedStations = draft.stations.filter((s) => s.lockedOut).map((s) => `${s.number} ${s.name}`);
  const all = [...locked, ...lockedStations];
  const hold = draft.site.holdUntil;
  return (
    <div className="min-h-dvh flex flex-col">
      <header className="px-4 pt-2">
        <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1">
          <ButtonLink rank="quiet" href="/" className="no-print">
            Rounds
          </ButtonLink>
          <h1 className="text-xl leading-tight">{draft.site.name}</h1>
          <LocalTime timeZone={draft.site.timeZone} />
          {hold && (
            <strong className="text-xl text-error">
              {hold === "indefinite" ? "OFF, no end set" : `Off until ${hold}`}
            </strong>
          )}
          {all.length > 0 && (
            <strong className="text-xl text-error">
              Locked out: {all.slice(0, 3).join(", ")}
              {all.length > 3 ? ` and ${all.length - 3} more` : ""}
            </strong>
          )}
          <span className="grow" />
          <span className="text-faint no-print">
            {userName}, {role}
            {canEdit ? "" : " (looking only)"}
          </span>
          <Button className="no-print" onClick={toggleUnits} title="u">
            {units === "us" ? "US units" : "Metric"}
          </Button>
          <ThemeSwitch />
          <KeyHelp />
        </div>
        <div className="mt-1">
          <PipeNav />
        </div>
      </header>
      <SaveBar />
      <main className="grow px-4 py-3 min-w-0">{children}</main>
      <TellLine />
    </div>
  );
}

function LocalTime({ timeZone }: { timeZone: string }) {
  const [text, setText] = useState("");
  useEffect(() => {
    const show = (): void =>
      setText(
        localIso(timeZone, Math.floor(Date.now() / 1000))
          .slice(0, 16)
          .replace("T", " "),
      );
    show();
    const timer = setInterval(show, 10_000);
    return () => clearInterval(timer);
  }, [timeZone]);
  return <span className="text-faint">{text} local time</span>;
}

function useScreenKeys(): void {
  const router = useRouter();
  const path = usePathname();
  const { siteId, toggleUnits, undo, canUndo, redo, canRedo } = useWorkspace();
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (isTyping(event)) return;
      if (event.ctrlKey) {
        if (event.key === "z" && canUndo) {
          event.preventDefault();
          undo();
        }
        if ((event.key === "y" || event.key === "Z") && canRedo) {
          event.preventDefault();
          redo();
        }
        return;
      }
      const digit = "123456789".indexOf(event.key);
      if (digit >= 0) router.push(`/sites/${siteId}/${SCREENS[digit]}`);
      else if (event.key === "0") router.push("/");
      else if (event.key === "u") toggleUnits();
      else if (event.key === ".") router.push(`/sites/${siteId}/findings`);
      else if (event.key === "b") router.push(`/sites/${siteId}/waterworks#binding`);
      else if (event.key === "d") document.querySelector<HTMLElement>('[aria-label="Unsaved changes"] button')?.focus();
      else if (event.key === "/") {
        event.preventDefault();
        document.querySelector<HTMLElement>("[data-find]")?.focus();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [router, siteId, toggleUnits, undo, canUndo, redo, canRedo, path]);
}
