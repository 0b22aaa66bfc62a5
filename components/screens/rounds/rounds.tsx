"use client";
import { Button, ButtonLink } from "@/components/kit/button";
import { Input, Select } from "@/components/kit/inputs";
import { Table } from "@/components/kit/table";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { useEffect, useRef, useState } from "react";
import { useAlarmNews } from "@/components/data/use-alarm-news";
import { ThemeSwitch } from "@/components/frame/theme-switch";
import { isTyping } from "@/components/kit/typing";
import { RULE_WORDS } from "@/components/words/rule-words";
import { request } from "@/components/data/request";
import { showQuantity } from "@/core/units/units";
import type { RoundsRow } from "@/server/services/rounds";
import { NewSite } from "./new-site";

/** All sites, those that need someone today first. */
export function Rounds({ rows, user }: { rows: RoundsRow[]; user: { name: string; role: string } }) {
  const [find, setFind] = useState("");
  const [only, setOnly] = useState<"all" | "needs" | "held" | "alarms">("all");
  const [at, setAt] = useState(0);
  const router = useRouter();
  const findBox = useRef<HTMLInputElement>(null);
  const shown = rows.filter(
    (r) =>
      r.name.toLowerCase().includes(find.toLowerCase()) &&
      (only === "all" ||
        (only === "needs" && r.urgency >= 30) ||
        (only === "held" && r.hold) ||
        (only === "alarms" && r.openAlarms > 0)),
  );
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      if (isTyping(e) || e.ctrlKey) return;
      if (e.key === "j") setAt((n) => Math.min(shown.length - 1, n + 1));
      if (e.key === "k") setAt((n) => Math.max(0, n - 1));
      if (e.key === "/") {
        e.preventDefault();
        findBox.current?.focus();
      }
      if (e.key === "Enter" && e.target === document.body && shown[at]) router.push(`/sites/${shown[at].id}/night`);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [shown, at, router]);
  const openAlarms = rows.reduce((sum, r) => sum + r.openAlarms, 0);
  useAlarmNews(() => router.refresh());
  const signOut = async (): Promise<void> => {
    await request("DELETE", "/api/session");
    window.location.assign("/sign-in");
  };
  return (
    <main className="px-4 py-3">
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-2 mb-3">
        <h1 className="text-xl">Rounds</h1>
        <span className="text-faint">{rows.length} sites, those that need someone first</span>
        <span className="grow" />
        <span className="text-faint">
          {user.name}, {user.role}
        </span>
        <ButtonLink href="/alarms" className={` ${openAlarms > 0 ? "text-error" : ""}`}>
          {openAlarms > 0 ? `⬢ ${openAlarms} open alarm${openAlarms === 1 ? "" : "s"}` : "Alarms"}
        </ButtonLink>
        <ButtonLink href="/library">Device library</ButtonLink>
        <ButtonLink href="/profiles">Controller profiles</ButtonLink>
        <ThemeSwitch />
        <Button onClick={signOut}>Sign out</Button>
      </div>
      <div className="flex flex-wrap items-end gap-3 mb-2">
        <label className="w-64">
          <span className="block text-sm text-faint">Find a site</span>
          <Input
            ref={findBox}
            value={find}
            onChange={(e) => {
              setFind(e.target.value);
              setAt(0);
            }}
          />
        </label>
        <label className="w-48">
          <span className="block text-sm text-faint">Show</span>
          <Select value={only} onChange={(e) => setOnly(e.target.value as typeof only)}>
            <option value="all">all sites</option>
            <option value="needs">needs someone</option>
            <option value="alarms">open alarms</option>
            <option value="held">held or off</option>
          </Select>
        </label>
        {user.role !== "viewer" && <NewSite />}
      </div>
      <div className="overflow-x-auto">
        <Table>
          <thead>
            <tr>
              <th>Site</th>
              <th>Needs someone because</th>
              <th>Night</th>
              <th>ends</th>
              <th className="text-right">short</th>
              <th>What binds</th>
              <th className="text-right">watched</th>
              <th>Learned since</th>
            </tr>
          </thead>
          <tbody>
            {shown.map((r, i) => (
              <tr key={r.id} aria-selected={i === at} onMouseEnter={() => setAt(i)}>
                <td className="min-w-48">
                  <Link
                    className="font-semibold text-lg underline-offset-2 hover:underline"
                    href={`/sites/${r.id}/night`}
                  >
                    {r.name}
                  </Link>
                  <div className="text-sm text-faint">
                    {r.stations} stations, {r.controllers} controller{r.controllers === 1 ? "" : "s"}
                  </div>
                </td>
                <td>
                  {r.why.length === 0 ? (
                    <span className="text-faint">nothing today</span>
                  ) : (
                    r.why.map((w, n) => (
                      <span
                        key={w}
                        className={r.urgency >= 100 && n === 0 ? "text-error font-semibold block" : "block"}
                      >
                        {w}
                      </span>
                    ))
                  )}
                </td>
                <td>
                  <Sketch row={r} />
                </td>
                <td>
                  {r.summary.finish ? r.summary.finish.slice(11, 16) : <span className="text-faint">no runs</span>}
                </td>
                <td className="text-right">
                  {r.summary.shortfallMin >= 1 ? (
                    <strong className="text-error">{Math.round(r.summary.shortfallMin)} min</strong>
                  ) : (
                    "0 min"
                  )}
                </td>
                <td>
                  {r.summary.binding ? (
                    <>
                      {r.summary.binding.name}
                      <div className="text-sm text-faint">
                        {showQuantity(r.summary.binding.ceilingLpm, "flow", r.units)},{" "}
                        {RULE_WORDS[r.summary.binding.rule]}
                      </div>
                    </>
                  ) : (
                    <span className="text-faint">nothing</span>
                  )}
                </td>
                <td className="text-right">
                  {r.summary.watched === null ? "–" : `${Math.round(r.summary.watched * 100)} %`}
                </td>
                <td>
                  {r.oldestLearned ? r.oldestLearned.slice(0, 10) : <span className="text-faint">never</span>}
                  {r.unlearned > 0 && <div className="text-sm text-warning">{r.unlearned} not learned</div>}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </div>
      {shown.length === 0 && (
        <p className="my-6">
          {rows.length === 0
            ? "No site yet. Create one from nothing, or import a site file; then draw its waterworks."
            : "No site matches. Clear the search or show all sites."}
        </p>
      )}
    </main>
  );
}

/** The night in small: time to the right, flow up, each run a bar of its own water. */
function Sketch({ row }: { row: RoundsRow }) {
  const { sketch, makespanS, binding } = row.summary;
  if (sketch.length === 0) return <span className="text-faint">–</span>;
  const step = Math.max(1, makespanS / 110);
  const bins = Array.from({ length: 110 }, (_, i) =>
    sketch.reduce((sum, [s, len, lpm]) => sum + (s <= i * step && i * step < s + len ? lpm : 0), 0),
  );
  const most = Math.max(...bins);
  // The bank is drawn only where the binding element carries all of the flow.
  const bank = binding && binding.ceilingLpm >= most - 1 ? binding.ceilingLpm : null;
  const top = Math.max(bank ?? 0, most) * 1.06 || 1;
  return (
    <svg
      width="112"
      height="30"
      viewBox="0 0 112 30"
      role="img"
      aria-label={`Flow through the night, up to ${Math.round(most)} litres a minute`}
    >
      <rect x="1" y="1" width="110" height="28" fill="var(--bed)" />
      <path
        d={`M1 29 ${bins.map((b, i) => `L${1 + i} ${29 - (28 * b) / top} L${2 + i} ${29 - (28 * b) / top}`).join(" ")} L111 29 Z`}
        fill="var(--water)"
      />
      {bank !== null && (
        <line
          x1="1"
          x2="111"
          y1={29 - (28 * bank) / top}
          y2={29 - (28 * bank) / top}
          stroke="var(--ink)"
          strokeWidth="1.5"
        />
      )}
    </svg>
  );
}
