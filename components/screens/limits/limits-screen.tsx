"use client";
import { Button } from "@/components/kit/button";
import { clean, patched, type Patch } from "@/core/site-file/patch";
import { useEffect, useMemo, useState } from "react";
import { ChoiceField, NumberField, TickField } from "@/components/kit/fields";
import { isTyping } from "@/components/kit/typing";

import { useWorkspace } from "@/components/draft/workspace";
import { policyOfMain } from "@/core/judge/policy-of";
import { SCHOOLS } from "@/core/limits/schools";
import { sightOf } from "@/core/limits/sight";
import { watchedByStation } from "@/core/limits/watched";
import { waterworks } from "@/core/network/waterworks";
import type { Policy, SiteFile, Station } from "@/core/site-file/schema";
import { showQuantity } from "@/core/units/units";
import { HandWateringPanel } from "./hand-watering-panel";
import { InheritedPanel } from "./inherited-panel";
import { type Company, Jaw } from "../../pictures/jaw/jaw";
import { JawTable } from "./jaw-table";
import { JudgementPanel } from "./judgement-panel";

const COMPANY = [
  ["alone", "Alone"],
  ["best", "In any set of the plan"],
  ["fullest", "In the fullest set"],
] as const;
const RESPONSES = [
  ["notify", "notify"],
  ["stopStation", "stop station"],
  ["findAndIsolate", "find and isolate"],
  ["stopAll", "stop all"],
] as const;

export function LimitsScreen() {
  const { draft, edit, night, units, canEdit } = useWorkspace();
  const [company, setCompany] = useState<Company>("alone");
  const [selected, setSelected] = useState<string | null>(null);
  const runs = useMemo(() => night?.plan.runs ?? [], [night]);
  const rows = useMemo(() => sightOf(draft, runs), [draft, runs]);
  const watched = useMemo(
    () => new Map([...watchedByStation(draft, runs)].map(([id, w]) => [id, w.runS > 0 ? w.watchedS / w.runS : 0])),
    [draft, runs],
  );
  const [asTable, setAsTable] = useState(false);
  const put = (values: Patch<Policy>, gesture?: string): void =>
    edit((f) => ({ ...f, policy: patched(f.policy, values) }), gesture);
  const move = (side: "high" | "low", percent: number, stationId: string | null, gesture?: string): void => {
    const key = side === "high" ? "highPercent" : "lowPercent";
    if (stationId === null) put({ [key]: percent, preset: undefined }, gesture);
    else
      edit(
        (f: SiteFile) => ({
          ...f,
          stations: f.stations.map((s) => (s.id === stationId ? { ...s, [key]: percent } : s)),
        }),
        gesture,
      );
  };
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      if (e.key === "t" && !isTyping(e) && !e.ctrlKey && !e.metaKey) setAsTable((on) => !on);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const w = useMemo(() => waterworks(draft), [draft]);
  const station = draft.stations.find((s) => s.id === selected);
  const sight = rows.find((r) => r.stationId === selected);
  const { policy } = draft;
  /** What a station has where it has nothing of its own, and from where. */
  const inherits = (of: Station | undefined, key: "highPercent" | "lowPercent"): string => {
    const main = draft.mainlines.findIndex((m) => m.id === of?.mainlineId);
    if (main < 0) return `${policy[key]} (site)`;
    const { policy: there, from } = policyOfMain(w, main);
    const id = from[key];
    return `${there[key]} (${id === undefined ? "site" : ([...draft.pocs, ...draft.mainlines].find((x) => x.id === id)?.name ?? id)})`;
  };
  const unseenAlone = rows.filter((r) => !r.alone.seesOutlet).length;
  const unseenFull = rows.filter((r) => !r.fullest.seesOutlet).length;
  const lateralFull = rows.filter((r) => !r.fullest.seesLateral).length;
  if (rows.length === 0)
    return (
      <>
        <h2 className="text-xl mb-2">Limits</h2>
        <p className="max-w-prose">
          Limits stand on expected flows. List stations with their design flows, or learn them, first.
        </p>
      </>
    );
  return (
    <>
      <div className="flex flex-wrap items-end gap-3 mb-2">
        <h2 className="text-xl mr-2">Limits</h2>
        <fieldset className="flex items-end" aria-label="Judged">
          {COMPANY.map(([c, words]) => (
            <Button
              rank="main"
              key={c}
              className={` ${company === c ? "" : ""}`}
              aria-pressed={company === c}
              onClick={() => setCompany(c)}
            >
              {words}
            </Button>
          ))}
        </fieldset>
        <Button aria-pressed={asTable} title="t" onClick={() => setAsTable(!asTable)}>
          {asTable ? "As a picture" : "As a table"}
        </Button>
        <div className="w-44">
          <ChoiceField
            label="School to start from"
            value={policy.preset ?? "own"}
            disabled={!canEdit}
            options={[...SCHOOLS.map((s) => [s.id, s.name] as const), ["own", "own figures"] as const]}
            onCommit={(id) => {
              const school = SCHOOLS.find((s) => s.id === id);
              if (school)
                edit((f) => ({ ...f, policy: clean({ ...f.policy, bands: undefined, ...school.policy, preset: id }) }));
              else put({ preset: undefined });
            }}
          />
        </div>
        <div className="w-24">
          <NumberField
            label="High"
            unit="%"
            value={policy.highPercent}
            min={1}
            max={1000}
            required
            disabled={!canEdit}
            onCommit={(v) => put({ highPercent: v, preset: undefined })}
          />
        </div>
        <div className="w-24">
          <NumberField
            label="Low"
            unit="%"
            value={policy.lowPercent}
            min={1}
            max={100}
            required
            disabled={!canEdit}
            onCommit={(v) => put({ lowPercent: v, preset: undefined })}
          />
        </div>
        <div className="w-28">
          <NumberField
            label="Persistence"
            unit="s"
            value={policy.persistenceS}
            min={0}
            max={86_400}
            whole
            required
            disabled={!canEdit}
            onCommit={(v) => put({ persistenceS: v, preset: undefined })}
          />
        </div>
        <div className="w-44">
          <ChoiceField
            label="Persistence is"
            value={policy.judge ?? "unbroken"}
            disabled={!canEdit}
            options={[
              ["unbroken", "every reading beyond"],
              ["share", "80 % of them beyond"],
              ["mean", "their 10 s mean beyond"],
            ]}
            onCommit={(v) => put({ judge: v === "unbroken" ? undefined : v, preset: undefined })}
          />
        </div>
        <div className="w-40">
          <ChoiceField
            label="When high"
            value={policy.highResponse}
            disabled={!canEdit}
            options={RESPONSES}
            onCommit={(v) => put({ highResponse: v, preset: undefined })}
          />
        </div>
        <div className="w-40">
          <ChoiceField
            label="When low"
            value={policy.lowResponse}
            disabled={!canEdit}
            options={RESPONSES}
            onCommit={(v) => put({ lowResponse: v, preset: undefined })}
          />
        </div>
        <div className="w-44">
          <NumberField
            label="Returns by itself after"
            unit="min"
            value={policy.autoReturnMin ?? undefined}
            min={1}
            max={100_000}
            placeholder="never by itself"
            disabled={!canEdit}
            onCommit={(v) => put({ autoReturnMin: v, preset: undefined })}
          />
        </div>
        <TickField
          label="retest once"
          checked={policy.retest === true}
          disabled={!canEdit}
          onCommit={(v) => put({ retest: v ? true : undefined, preset: undefined })}
        />
      </div>
      <p className="mb-2">
        One broken outlet passes unseen at <strong>{unseenAlone}</strong> of {rows.length} stations alone and{" "}
        <strong>{unseenFull}</strong> in the fullest set they run in; a broken lateral at <strong>{lateralFull}</strong>{" "}
        in the fullest set, at <strong>{rows.filter((r) => !r.best.seesLateral).length}</strong> in every set of the
        plan.{" "}
        <span className="text-faint">
          {SCHOOLS.find((s) => s.id === policy.preset)
            ? `${SCHOOLS.find((s) => s.id === policy.preset)?.name} suits ${SCHOOLS.find((s) => s.id === policy.preset)?.suits}.`
            : "Own figures."}{" "}
          {policy.basis === "graded"
            ? "Graded by total expected flow; overrides of single stations do not apply."
            : "Drag the handles at the top to move all, a wall in a row to override it."}
        </span>
      </p>
      <InheritedPanel />
      <HandWateringPanel />
      {station && sight && (
        <section
          aria-label="Selected station"
          className="flex flex-wrap items-end gap-3 border-y border-base-300 py-2 mb-2"
        >
          <strong className="text-lg">
            {station.number} {station.name}
          </strong>
          <div className="w-36">
            <NumberField
              label="High, this one"
              unit="%"
              value={station.highPercent}
              min={1}
              max={1000}
              placeholder={inherits(station, "highPercent")}
              disabled={!canEdit}
              onCommit={(v) =>
                edit((f) => ({
                  ...f,
                  stations: f.stations.map((s) => (s.id === station.id ? clean({ ...s, highPercent: v }) : s)),
                }))
              }
            />
          </div>
          <div className="w-36">
            <NumberField
              label="Low, this one"
              unit="%"
              value={station.lowPercent}
              min={1}
              max={100}
              placeholder={inherits(station, "lowPercent")}
              disabled={!canEdit}
              onCommit={(v) =>
                edit((f) => ({
                  ...f,
                  stations: f.stations.map((s) => (s.id === station.id ? clean({ ...s, lowPercent: v }) : s)),
                }))
              }
            />
          </div>
          <p>
            Alone: trips above {showQuantity(sight.alone.highLpm, "flow", units, 1)}, below{" "}
            {showQuantity(sight.alone.lowLpm, "flow", units, 1)}. Fullest with {sight.fullest.with.length - 1} other
            {sight.fullest.with.length === 2 ? "" : "s"}: above {showQuantity(sight.fullest.highLpm, "flow", units, 1)},
            below {showQuantity(sight.fullest.lowLpm, "flow", units, 1)};{" "}
            {sight.fullest.seesNeverOpens
              ? "its valve never opening would be seen."
              : "its valve never opening would pass unseen."}
          </p>
        </section>
      )}
      {asTable && (
        <JawTable
          rows={rows}
          company={company}
          watched={watched}
          selected={selected}
          onSelect={setSelected}
          inherits={inherits}
        />
      )}
      {!asTable && (
        <div className="overflow-x-auto">
          <Jaw
            site={draft}
            rows={rows}
            company={company}
            units={units}
            watched={watched}
            canEdit={canEdit}
            selected={selected}
            onSelect={setSelected}
            onMove={move}
          />
        </div>
      )}
      <p className="text-sm text-faint mt-2">
        ▬ learned ± 2 standard deviations &nbsp; ◇ design &nbsp; □ by hand &nbsp; ▲ a break that is seen &nbsp; △ a
        break that passes unseen &nbsp; hatched left: under the sensor's minimum; right: more than the supply's yield.
        One outlet: 15 L/min a spray head, 45 a rotor, 8 a drip line, 12 a bubbler; a lateral: 60 % of the station.
      </p>
      <JudgementPanel />
    </>
  );
}
