"use client";
import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { useState } from "react";
import { request } from "@/components/data/request";
import { useWorkspace } from "@/components/draft/site-draft";
import { holdsPhrase, holdsWords } from "@/components/kit/find-words";
import { Dialog } from "@/components/kit/dialog";
import { SCREENS } from "@/core/summary/progress";
import { useLeave } from "./leave-guard";
import { SCREEN_NAMES } from "./pipe-nav";
import { useTheme } from "./use-theme";

export type CommandMode = "all" | "sites";
type Entry = { name: string; hint?: string; run: () => void };

const VIEWS: [screen: (typeof SCREENS)[number], view: string, name: string][] = [
  ["waterworks", "devices", "Devices and wires"],
  ["waterworks", "pressure", "Pressure at every valve"],
  ["waterworks", "exchange", "Exchange as a network file"],
  ["programs", "all", "All programs side by side"],
  ["programs", "year", "Water by month"],
  ["programs", "sheet", "Setup sheet"],
  ["night", "better", "Find a better night"],
  ["night", "weeks", "Six weeks"],
  ["night", "whatif", "What if"],
  ["limits", "points", "Starting points compared"],
  ["bench", "sweep", "Fault sweep"],
  ["bench", "drill", "Drill"],
  ["bench", "live", "Live, and faults on a simulated site"],
  ["controllers", "settings", "Send and read back"],
  ["controllers", "run", "Run now"],
  ["controllers", "live", "The site live"],
  ["controllers", "history", "Sends and orders"],
];

/** What bears the words as they stand comes first, then what holds them all. */
function rank(name: string, asked: string): number {
  if (holdsPhrase(name, asked)) return 1;
  return holdsWords(name, asked) ? 0.5 : 0;
}

/** The command line of the screen: go anywhere, do anything that has a name. */
export function CommandLine({ mode, onClose }: { mode: CommandMode | null; onClose: () => void }) {
  const [find, setFind] = useState("");
  const leave = useLeave();
  const { siteId, draft, undo, redo, discard, toggleUnits } = useWorkspace(
    "siteId",
    "draft",
    "undo",
    "redo",
    "discard",
    "toggleUnits",
  );
  const { turn } = useTheme();
  const sites = useQuery({
    queryKey: ["sites"],
    queryFn: () => request<{ sites: { id: string; name: string }[] }>("GET", "/api/sites"),
    enabled: mode !== null,
    staleTime: 30_000,
  });
  const close = (): void => {
    setFind("");
    onClose();
  };
  const entry = ({ name, hint, run }: Entry) => (
    <Command.Item
      key={name}
      value={name}
      className="flex cursor-pointer items-baseline justify-between gap-4 px-2 py-1 aria-selected:bg-base-content aria-selected:text-base-100"
      onSelect={() => {
        close();
        run();
      }}
    >
      <span>{name}</span>
      {hint && <span className="text-xs opacity-80">{hint}</span>}
    </Command.Item>
  );
  return (
    <Dialog title={mode === "sites" ? "Go to a site" : "Command line"} open={mode !== null} onClose={close}>
      <Command label={mode === "sites" ? "Sites" : "Commands"} filter={rank}>
        <Command.Input
          autoFocus
          value={find}
          onValueChange={setFind}
          placeholder={mode === "sites" ? "Name of a site" : "What to do, or where to go"}
          className="input w-full"
        />
        <Command.List className="mt-2 max-h-[50vh] overflow-y-auto">
          <Command.Empty className="px-2 py-1 text-faint">Nothing is called that.</Command.Empty>
          {mode === "all" && (
            <>
              <Command.Group heading="Screens" className="text-faint [&_[cmdk-item]]:text-base-content">
                {SCREENS.map((s, i) =>
                  entry({
                    name: SCREEN_NAMES[s],
                    hint: String((i + 1) % 10),
                    run: () => leave(`/sites/${siteId}/${s}`),
                  }),
                )}
                {entry({ name: "About this site", run: () => leave(`/sites/${siteId}/about`) })}
                {entry({ name: "Findings", hint: ".", run: () => leave(`/sites/${siteId}/findings`) })}
                {VIEWS.map(([s, v, name]) => entry({ name, run: () => leave(`/sites/${siteId}/${s}?view=${v}`) }))}
              </Command.Group>
              <Command.Group heading="Do" className="text-faint [&_[cmdk-item]]:text-base-content">
                {entry({ name: "Undo", hint: "Ctrl+Z", run: undo })}
                {entry({ name: "Redo", hint: "Ctrl+Y", run: redo })}
                {entry({ name: "Discard all changes", run: discard })}
                {entry({ name: "Change units", hint: "u", run: toggleUnits })}
                {entry({ name: "Change theme", run: turn })}
                {entry({ name: "Print", run: () => window.print() })}
              </Command.Group>
              <Command.Group heading="Stations" className="text-faint [&_[cmdk-item]]:text-base-content">
                {find.length > 1 &&
                  draft.stations.slice(0, 2000).map((s) =>
                    entry({
                      name: `${s.number} ${s.name}`,
                      hint: "station",
                      run: () => leave(`/sites/${siteId}/stations?at=${encodeURIComponent(s.id)}`),
                    }),
                  )}
              </Command.Group>
            </>
          )}
          <Command.Group heading="Sites" className="text-faint [&_[cmdk-item]]:text-base-content">
            {entry({ name: "Rounds", hint: "r", run: () => leave("/") })}
            {entry({ name: "Alarms of all sites", run: () => leave("/alarms") })}
            {entry({ name: "Calendar of all sites", run: () => leave("/calendar") })}
            {entry({ name: "Water of all sites", run: () => leave("/water") })}
            {entry({ name: "Controllers of all sites", run: () => leave("/controllers") })}
            {(sites.data?.sites ?? []).map((s) =>
              entry({ name: s.name, hint: s.id === siteId ? "here" : "", run: () => leave(`/sites/${s.id}/night`) }),
            )}
          </Command.Group>
        </Command.List>
      </Command>
    </Dialog>
  );
}
