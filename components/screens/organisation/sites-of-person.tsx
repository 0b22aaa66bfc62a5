"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { request } from "@/components/data/request";
import { useGroups } from "@/components/data/use-groups";
import { Button } from "@/components/kit/button";
import { Dialog } from "@/components/kit/dialog";
import { TickField } from "@/components/kit/fields";
import { holdsWords } from "@/components/kit/find-words";
import { Input } from "@/components/kit/inputs";
import { Scroller } from "@/components/kit/scroller";
import { foundBy, groupNames, type SortedSite } from "@/contracts/groups";
import type { Person } from "@/contracts/people";

type Props = { person: Person; onClose: () => void; onKeep: (siteIds: string[] | null) => void };

/** Which sites somebody sees: all, or those that are ticked. */
export function SitesOfPerson({ person, onClose, onKeep }: Props) {
  const { view } = useGroups();
  const now = useQuery({
    queryKey: ["people", person.id, "sites", person.sites],
    queryFn: () => request<{ siteIds: string[] | null }>("GET", `/api/people/${person.id}`),
  });
  return (
    <Dialog title={`Sites that ${person.name} sees`} open onClose={onClose}>
      {view && now.data ? (
        <Choice sites={view.sites} now={now.data.siteIds} onKeep={onKeep} />
      ) : (
        <p role="status">Looking them up…</p>
      )}
    </Dialog>
  );
}

function Choice({ sites, now, onKeep }: { sites: SortedSite[]; now: string[] | null; onKeep: Props["onKeep"] }) {
  const [all, setAll] = useState(now === null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set(now ?? []));
  const [find, setFind] = useState("");
  const shown = sites.filter((s) => holdsWords(foundBy(s), find));
  const turn = (ids: string[], on: boolean): void => {
    const next = new Set(chosen);
    for (const id of ids) on ? next.add(id) : next.delete(id);
    setChosen(next);
  };
  return (
    <div className="grid gap-2">
      <TickField label="All sites, and those that come" checked={all} onCommit={setAll} />
      {!all && (
        <>
          <div className="flex flex-wrap items-center gap-2">
            <Input
              className="w-56"
              aria-label="Find sites"
              placeholder="Name, client, area or crew"
              value={find}
              onChange={(e) => setFind(e.target.value)}
            />
            <Button
              rank="quiet"
              onClick={() =>
                turn(
                  shown.map((s) => s.id),
                  true,
                )
              }
            >
              Tick those shown
            </Button>
            <Button
              rank="quiet"
              onClick={() =>
                turn(
                  shown.map((s) => s.id),
                  false,
                )
              }
            >
              None of them
            </Button>
          </div>
          <Scroller className="max-h-[45vh]">
            <ul>
              {shown.map((s) => (
                <li key={s.id}>
                  <TickField
                    label={
                      <>
                        {s.name} <span className="text-faint">{groupNames(s).join(" · ")}</span>
                      </>
                    }
                    checked={chosen.has(s.id)}
                    onCommit={(on) => turn([s.id], on)}
                  />
                </li>
              ))}
            </ul>
          </Scroller>
          <p className="text-faint">
            {chosen.size} of {sites.length}. What they do not see is not found, listed or told to them anywhere, and
            they begin no sites.
          </p>
        </>
      )}
      <Button rank="main" className="justify-self-start" onClick={() => onKeep(all ? null : [...chosen])}>
        Keep
      </Button>
    </div>
  );
}
