"use client";
import { Input, Select } from "@/components/kit/inputs";
import { useCallback, useEffect, useState } from "react";
import { PageHead } from "@/components/frame/page-head";
import { request } from "@/components/data/request";
import { localIso } from "@/core/dates/wall-time";
import type { UnitSystem } from "@/core/units/units";
import { type Alarm, type AlarmEntry, KIND_WORDS, type Person } from "../../data/alarm-types";
import { AlarmCard } from "./alarm-card";
import { useAlarmNews } from "../../data/use-alarm-news";

type Found = {
  alarms: (Alarm & { site_units: UnitSystem; site_zone: string })[];
  entries: AlarmEntry[];
  people: Person[];
};

/** Alarms over all sites: who has them, what was found, what is still open. New ones appear by themselves. */
export function AlarmsScreen({ canEdit, userId, who }: { canEdit: boolean; userId: string; who: string }) {
  const [found, setFound] = useState<Found | null>(null);
  const [sites, setSites] = useState<Map<string, string>>(new Map());
  const [filter, setFilter] = useState({ state: "open", kind: "", site: "", assigned: "", find: "" });
  const [problem, setProblem] = useState<string | null>(null);
  const query = new URLSearchParams(Object.entries(filter).filter(([, v]) => v !== "")).toString();
  const load = useCallback(async (): Promise<void> => {
    try {
      const next = await request<Found>("GET", `/api/alarms?${query}`);
      setFound(next);
      setSites((known) => new Map([...known, ...next.alarms.map((a) => [a.site_id, a.site_name] as const)]));
      setProblem(null);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
  }, [query]);
  useEffect(() => {
    const timer = setTimeout(() => void load(), 150);
    return () => clearTimeout(timer);
  }, [load]);
  useAlarmNews(() => void load());
  const act = async (alarm: Alarm, body: unknown): Promise<boolean> => {
    setProblem(null);
    try {
      await request("POST", `/api/sites/${alarm.site_id}/alarms/${alarm.id}`, body);
      await load();
      return true;
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
      return false;
    }
  };
  /** On the site's own clock. */
  const when =
    (zone: string) =>
    (iso: string): string =>
      localIso(zone, Math.floor(Date.parse(iso) / 1000))
        .slice(0, 16)
        .replace("T", " ");
  const put = (values: Partial<typeof filter>): void => setFilter((f) => ({ ...f, ...values }));
  return (
    <>
      <PageHead title="Alarms" who={who} />
      <main className="px-4 pb-6">
        <div className="flex flex-wrap items-end gap-3 mb-2">
          <label className="w-40">
            <span className="block text-sm text-faint">State</span>
            <Select value={filter.state} onChange={(e) => put({ state: e.target.value })}>
              <option value="open">open</option>
              <option value="cleared">cleared</option>
              <option value="">all</option>
            </Select>
          </label>
          <label className="w-44">
            <span className="block text-sm text-faint">Kind</span>
            <Select value={filter.kind} onChange={(e) => put({ kind: e.target.value })}>
              <option value="">every kind</option>
              {Object.entries(KIND_WORDS).map(([k, w]) => (
                <option key={k} value={k}>
                  {w}
                </option>
              ))}
            </Select>
          </label>
          <label className="w-56">
            <span className="block text-sm text-faint">Site</span>
            <Select value={filter.site} onChange={(e) => put({ site: e.target.value })}>
              <option value="">every site</option>
              {[...sites]
                .sort((a, b) => a[1].localeCompare(b[1]))
                .map(([id, name]) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
            </Select>
          </label>
          <label className="w-44">
            <span className="block text-sm text-faint">For</span>
            <Select value={filter.assigned} onChange={(e) => put({ assigned: e.target.value })}>
              <option value="">anyone</option>
              <option value={userId}>me</option>
              {found?.people
                .filter((p) => p.id !== userId)
                .map((p) => (
                  <option key={p.id} value={p.id}>
                    {p.name}
                  </option>
                ))}
            </Select>
          </label>
          <label className="w-56">
            <span className="block text-sm text-faint">Find</span>
            <Input value={filter.find} onChange={(e) => put({ find: e.target.value })} />
          </label>
          <a href={`/api/alarms/csv?${query}`} download>
            These as CSV
          </a>
        </div>
        {problem && (
          <p role="alert" className="text-error font-semibold">
            {problem}
          </p>
        )}
        {!found ? (
          <p role="status">Reading the alarms…</p>
        ) : (
          <section aria-label="Alarms of all sites" className="max-w-5xl">
            <p role="status" className="text-faint">
              {found.alarms.length === 0
                ? "None like this."
                : `${found.alarms.length} alarm${found.alarms.length === 1 ? "" : "s"}${found.alarms.length === 500 ? ", the newest 500" : ""}; open ones first.`}
            </p>
            {found.alarms.map((a) => (
              <AlarmCard
                key={a.id}
                alarm={a}
                entries={found.entries.filter((e) => e.alarm_id === a.id)}
                people={found.people}
                canEdit={canEdit}
                units={a.site_units}
                name={(id) => id}
                when={when(a.site_zone)}
                act={act}
                withSite
              />
            ))}
          </section>
        )}
      </main>
    </>
  );
}
