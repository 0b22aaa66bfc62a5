"use client";
import { Download } from "lucide-react";
import { useId, useState } from "react";
import { useAlarms } from "@/components/data/use-alarms";
import { PageHead } from "@/components/frame/page-head";
import { SavedViews } from "@/components/frame/saved-views";
import { useScreenParam } from "@/components/frame/use-screen-param";
import { ButtonLink } from "@/components/kit/button";
import { conventions, useLanguage } from "@/components/kit/conventions";
import { ChoiceField, Labelled } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { Pager } from "@/components/kit/pager";
import { KIND_WORDS } from "@/components/words/alarm-words";
import type { Alarm, AlarmList } from "@/contracts/alarms";
import type { Language } from "@/contracts/people";
import { AlarmCard } from "./alarm-card";
import { ClearTogether } from "./clear-together";

const STATES = [
  ["open", "open"],
  ["cleared", "cleared"],
  ["all", "all"],
] as const;
/** On the site's own clock, as the site writes dates. */
const clockOf =
  ({ siteZone, siteUnits }: AlarmList["alarms"][number], language: Language) =>
  (iso: string): string =>
    conventions(siteUnits, siteZone, language).momentAt(iso);

/** Alarms over all sites: who has them, what was found, what is still open. New ones appear by themselves. */
export function AlarmsScreen({ canEdit, userId, who }: { canEdit: boolean; userId: string; who: string }) {
  const id = useId();
  const language = useLanguage();
  const [state, setState] = useScreenParam<"open" | "cleared" | "all">("state", "open", {
    add: false,
    fits: (v) => ["open", "cleared", "all"].includes(v),
  });
  const [kind, setKind] = useScreenParam<string>("kind", "", { add: false });
  const [site, setSite] = useScreenParam<string>("site", "", { add: false });
  const [assigned, setAssigned] = useScreenParam<string>("for", "", { add: false });
  const [find, setFind] = useScreenParam<string>("find", "", { add: false });
  const [page, setPage] = useScreenParam<string>("page", "1", { fits: (v) => /^[1-9]\d{0,3}$/.test(v) });
  const [ticked, setTicked] = useState<ReadonlyMap<string, Alarm>>(new Map());
  const asked = { state: state === "all" ? "" : state, kind, site, assigned, find, page: page === "1" ? "" : page };
  const query = new URLSearchParams(Object.entries(asked).filter(([, v]) => v !== "")).toString();
  const { found, sites, problem, act, clear } = useAlarms(query);
  /** Another question begins on its first page. */
  const anew =
    <T,>(set: (value: T) => void) =>
    (value: T): void => {
      setPage("1");
      set(value);
    };
  const tick = (alarm: Alarm, on: boolean): void => {
    const next = new Map(ticked);
    if (on) next.set(alarm.id, alarm);
    else next.delete(alarm.id);
    setTicked(next);
  };
  const onAct = async (alarm: Alarm, body: unknown): Promise<boolean> =>
    act.mutateAsync({ siteId: alarm.siteId, alarmId: alarm.id, body }).then(
      () => true,
      () => false,
    );
  const many = found?.found ?? 0;
  return (
    <>
      <PageHead
        title="Alarms"
        who={who}
        about={found ? `${found.more ? "more than " : ""}${many} alarm${many === 1 ? "" : "s"}` : undefined}
        tools={
          <>
            <SavedViews screen="alarms" />
            <ButtonLink rank="quiet" icon={Download} href={`/api/alarms/csv?${query}`} download>
              These as CSV
            </ButtonLink>
          </>
        }
      />
      <main id="main" className="px-4 pb-6">
        <div className="no-print mb-2 flex flex-wrap items-end gap-3">
          <ChoiceField label="State" className="w-36" value={state} options={STATES} onCommit={anew(setState)} />
          <ChoiceField
            label="Kind"
            className="w-44"
            value={kind}
            options={[["", "every kind"], ...Object.entries(KIND_WORDS)]}
            onCommit={anew(setKind)}
          />
          <ChoiceField
            label="Site"
            className="w-56"
            value={site}
            options={[["", "every site"], ...sites.map((s) => [s.id, s.name] as const)]}
            onCommit={anew(setSite)}
          />
          <ChoiceField
            label="For"
            className="w-44"
            value={assigned}
            options={[
              ["", "anyone"],
              [userId, "me"],
              ...(found?.people ?? []).filter((p) => p.id !== userId).map((p) => [p.id, p.name] as const),
            ]}
            onCommit={anew(setAssigned)}
          />
          <Labelled id={`${id}-find`} label="Find" className="w-56">
            <Input id={`${id}-find`} data-find value={find} onChange={(e) => anew(setFind)(e.target.value)} />
          </Labelled>
        </div>
        {problem && <Problem>{problem}</Problem>}
        {!found && !problem && <p role="status">Reading the alarms…</p>}
        {ticked.size > 0 && (
          <ClearTogether alarms={[...ticked.values()]} clear={clear.mutateAsync} onDone={() => setTicked(new Map())} />
        )}
        {found && (
          <section aria-label="Alarms of all sites" className="max-w-5xl">
            {many === 0 && <p role="status">None like this.</p>}
            {found.alarms.map((a) => (
              <AlarmCard
                key={a.id}
                alarm={a}
                entries={found.entries.filter((e) => e.alarmId === a.id)}
                people={found.people}
                canEdit={canEdit}
                units={a.siteUnits}
                name={(subject) => subject}
                when={clockOf(a, language)}
                act={onAct}
                withSite
                ticked={ticked.has(a.id)}
                onTick={canEdit && a.state !== "cleared" ? (on) => tick(a, on) : undefined}
              />
            ))}
            <Pager
              page={Number(page)}
              pageSize={found.pageSize}
              found={many}
              more={found.more}
              onPage={(n) => setPage(String(n))}
            />
          </section>
        )}
      </main>
    </>
  );
}
