"use client";
import { X } from "lucide-react";
import { Select } from "@/components/kit/inputs";
import { useMemo, useState } from "react";
import { NumberField } from "@/components/kit/fields";
import { useWorkspace } from "@/components/draft/site-draft";
import { type OneOff, oneOff } from "@/core/season/one-off";
import { showNumber, showQuantity } from "@/core/units/units";

const KINDS: [OneOff["kind"], string][] = [
  ["station", "one station"],
  ["program", "a program, now"],
  ["walk", "walk test"],
];

const waits = (first: string | undefined, at: number): boolean =>
  first !== undefined && Date.parse(first) / 1000 > at + 60;

/** Runs that leave the schedule as it is: how long, how much water, in which order. */
export function OneOffPanel() {
  const { draft, units } = useWorkspace("draft", "units");
  const [kind, setKind] = useState<OneOff["kind"]>("walk");
  const [stationId, setStation] = useState(draft.stations[0]?.id ?? "");
  const [programId, setProgram] = useState(draft.programs[0]?.id ?? "");
  const [controllerId, setController] = useState(draft.controllers[0]?.id ?? "");
  const [minutes, setMinutes] = useState(2);
  const [from, setFrom] = useState("");
  const [skip, setSkip] = useState("");
  const [at] = useState(() => Math.floor(Date.now() / 60_000) * 60);
  const program = draft.programs.find((p) => p.id === programId);
  const found = useMemo(() => {
    if (kind === "station")
      return draft.stations.some((s) => s.id === stationId) ? oneOff(draft, { kind, stationId, minutes }, at) : null;
    if (kind === "walk")
      return draft.controllers.some((c) => c.id === controllerId)
        ? oneOff(draft, { kind, controllerId, minutes }, at)
        : null;
    return program
      ? oneOff(
          draft,
          { kind, programId, ...(from ? { fromStationId: from } : {}), ...(skip ? { skipStationId: skip } : {}) },
          at,
        )
      : null;
  }, [draft, kind, stationId, programId, controllerId, minutes, from, skip, at, program]);
  const name = (id: string): string => {
    const s = draft.stations.find((x) => x.id === id);
    return `${s?.number} ${s?.name}`;
  };
  const select = (label: string, value: string, set: (v: string) => void, options: [string, string][]) => (
    <label className="w-52">
      <span className="block text-sm text-faint">{label}</span>
      <Select value={value} onChange={(e) => set(e.target.value)}>
        {options.map(([v, words]) => (
          <option key={v} value={v}>
            {words}
          </option>
        ))}
      </Select>
    </label>
  );
  return (
    <section aria-label="One-off run" className="border-y-2 border-base-content py-2 mb-3">
      <div className="flex flex-wrap items-end gap-3">
        <h3 className="text-lg self-center">One-off run</h3>
        {select("Kind", kind, (v) => setKind(v as OneOff["kind"]), KINDS)}
        {kind === "station" &&
          select(
            "Station",
            stationId,
            setStation,
            draft.stations.map((s) => [s.id, `${s.number} ${s.name}`]),
          )}
        {kind === "walk" &&
          select(
            "Controller",
            controllerId,
            setController,
            draft.controllers.map((c) => [c.id, c.name]),
          )}
        {kind !== "program" && (
          <div className="w-28">
            <NumberField
              label={kind === "walk" ? "Minutes each" : "Minutes"}
              unit="min"
              value={minutes}
              min={0.5}
              max={240}
              required
              onCommit={(v) => setMinutes(v ?? minutes)}
            />
          </div>
        )}
        {kind === "program" && (
          <>
            {select(
              "Program",
              programId,
              (v) => {
                setProgram(v);
                setFrom("");
                setSkip("");
              },
              draft.programs.map((p) => [p.id, p.name]),
            )}
            {select("From station", from, setFrom, [
              ["", "its first"],
              ...(program?.runs ?? []).map((r): [string, string] => [r.stationId, name(r.stationId)]),
            ])}
            {select("Skip", skip, setSkip, [
              ["", "none"],
              ...(program?.runs ?? []).map((r): [string, string] => [r.stationId, name(r.stationId)]),
            ])}
          </>
        )}
      </div>
      {found && (
        <>
          <p role="status" className="my-1">
            <strong>{showNumber(found.seconds / 60, 1)} min</strong> from the press of the button to the last close,{" "}
            {found.plan.runs.length} opening{found.plan.runs.length === 1 ? "" : "s"},{" "}
            <strong>{showQuantity(found.litres, "volume", units)}</strong>. The schedule stays as it is.{" "}
            {waits(found.plan.runs[0]?.start, at)
              ? `Begun now, it first waits until ${found.plan.runs[0]?.start.slice(11, 16)} for water: its source has hours. `
              : ""}
            {found.ignoresWeather ? "A single station ignores rain, wind and frost." : ""}
          </p>
          {found.plan.shortfalls.length > 0 && (
            <p className="text-error">
              <X className="inline size-[1em] align-[-0.12em]" aria-hidden /> Cannot run:{" "}
              {found.plan.shortfalls.map((s) => name(s.stationId)).join(", ")}.
            </p>
          )}
          <details>
            <summary className="cursor-pointer">In which order</summary>
            <ol className="columns-2 md:columns-4 text-sm list-decimal list-inside">
              {found.plan.runs.map((r) => (
                <li key={`${r.stationId}${r.start}`}>
                  {name(r.stationId)}, {showNumber((Date.parse(r.end) - Date.parse(r.start)) / 60_000, 1)} min
                </li>
              ))}
            </ol>
          </details>
          <p className="text-sm text-faint">
            Presa opens no valves: start it at the controller, then walk with this list.
          </p>
        </>
      )}
    </section>
  );
}
