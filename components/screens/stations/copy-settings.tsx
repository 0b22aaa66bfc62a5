"use client";
import { CopyPlus } from "lucide-react";
import { useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { Dialog } from "@/components/kit/dialog";
import { ChoiceField, TickField } from "@/components/kit/fields";
import { copyStation, STATION_PARTS, type StationPart } from "@/core/site-file/copies";
import type { Station } from "@/core/site-file/schema";

type To = "marked" | "mainline" | "controller" | "planting" | "all";

/** Settings of the chosen station given to others: which settings, and to which stations. */
export function CopySettings({ from, marked }: { from: Station; marked: Station[] }) {
  const { draft, edit } = useWorkspace("draft", "edit");
  const [open, setOpen] = useState(false);
  const [parts, setParts] = useState<ReadonlySet<StationPart>>(new Set());
  const [asked, setTo] = useState<To>("marked");
  const others: Record<To, Station[]> = {
    marked,
    mainline: draft.stations.filter((s) => s.mainlineId === from.mainlineId),
    controller: draft.stations.filter((s) => s.controllerId === from.controllerId),
    planting: draft.stations.filter((s) => s.planting === from.planting),
    all: draft.stations,
  };
  const ids = (to: To): Set<string> => new Set(others[to].flatMap((s) => (s.id === from.id ? [] : [s.id])));
  const nameOf = (list: { id: string; name: string }[], id: string): string =>
    list.find((e) => e.id === id)?.name ?? id;
  const words: Record<To, string> = {
    marked: "marked in the table",
    mainline: `on ${nameOf(draft.mainlines, from.mainlineId)}`,
    controller: `of ${nameOf(draft.controllers, from.controllerId)}`,
    planting: `with ${from.planting ?? "no planting given"}`,
    all: "of the site",
  };
  const offered = (Object.keys(words) as To[]).filter((t) => ids(t).size > 0);
  const to = offered.includes(asked) ? asked : (offered[0] ?? "all");
  const count = ids(to).size;
  return (
    <>
      <Button rank="quiet" icon={CopyPlus} disabled={offered.length === 0} onClick={() => setOpen(true)}>
        Copy settings
      </Button>
      <Dialog title={`Settings of ${from.number} ${from.name}`} open={open} onClose={() => setOpen(false)}>
        <form
          className="grid gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            edit((file) => copyStation(file, from.id, ids(to), parts));
            setOpen(false);
          }}
        >
          <fieldset className="grid justify-items-start gap-1">
            <legend className="text-xs text-faint">Which</legend>
            {STATION_PARTS.map(({ id, label }) => (
              <TickField
                key={id}
                label={label}
                checked={parts.has(id)}
                onCommit={(on) => {
                  const next = new Set(parts);
                  if (on) next.add(id);
                  else next.delete(id);
                  setParts(next);
                }}
              />
            ))}
          </fieldset>
          <ChoiceField
            label="To the stations"
            value={to}
            options={offered.map((t) => [t, `${words[t]}: ${ids(t).size}`] as const)}
            onCommit={setTo}
          />
          <p className="text-sm text-faint">
            What it has not set goes from them, too. Names, numbers, wires and learned flows stay their own.
          </p>
          <Button type="submit" rank="main" disabled={parts.size === 0}>
            Copy to {count} station{count === 1 ? "" : "s"}
          </Button>
        </form>
      </Dialog>
    </>
  );
}
