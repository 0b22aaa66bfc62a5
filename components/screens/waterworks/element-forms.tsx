"use client";
import { Button } from "@/components/kit/button";
import { Caution } from "@/components/kit/notice";
import type { Patch } from "@/core/site-file/patch";
import { ChoiceField, NumberField, TextField, TickField } from "@/components/kit/fields";
import { MonthsField } from "@/components/kit/months-field";
import { useProfiles } from "@/components/data/use-profiles";
import { useWorkspace } from "@/components/draft/site-draft";
import { fillTime } from "@/core/hydraulics/main-facts";
import type { Controller, Mainline, Poc, Source } from "@/core/site-file/schema";
import { showQuantity } from "@/core/units/units";
import { controllerLoad } from "@/core/wiring/load";
import { isFedBy, patchController, patchMainline, patchPoc, patchSource } from "../../draft/waterworks-edits";
import { loadWords } from "../../words/rule-words";
import { WindowList } from "../../kit/window-list";

export function SourceForm({ source }: { source: Source }) {
  const { edit, units, canEdit } = useWorkspace("edit", "units", "canEdit");
  const put = (values: Patch<Source>): void => edit(patchSource(source.id, values));
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2">
      <TextField
        label="Name"
        value={source.name}
        disabled={!canEdit}
        onCommit={(v) => put({ name: v.trim() || source.name })}
      />
      <ChoiceField
        label="Kind"
        value={source.kind}
        disabled={!canEdit}
        options={[
          ["municipal", "municipal"],
          ["well", "well"],
          ["pond", "pond or lake"],
          ["reclaimed", "reclaimed"],
          ["tank", "tank"],
        ]}
        onCommit={(v) => put({ kind: v })}
      />
      <NumberField
        label="Sustained yield"
        value={source.yieldLpm}
        quantity="flow"
        system={units}
        min={0}
        max={1_000_000}
        disabled={!canEdit}
        onCommit={(v) => put({ yieldLpm: v })}
      />
      <NumberField
        label="Static pressure"
        value={source.staticPressureKpa}
        quantity="pressure"
        system={units}
        min={0}
        max={10_000}
        disabled={!canEdit}
        onCommit={(v) => put({ staticPressureKpa: v })}
      />
      <NumberField
        label="Level of that pressure"
        value={source.elevationM}
        quantity="length"
        system={units}
        min={-500}
        max={9000}
        disabled={!canEdit}
        hint={
          source.kind === "well" || source.kind === "pond"
            ? "the water's surface when pumped"
            : "above any datum, the same for the whole site"
        }
        onCommit={(v) => put({ elevationM: v })}
      />
      <NumberField
        label="Pressure it loses"
        value={source.pressureDropKpaAt?.dropKpa}
        quantity="pressure"
        system={units}
        min={0}
        max={10_000}
        disabled={!canEdit}
        hint="static less residual of a flow test"
        onCommit={(v) =>
          put({
            pressureDropKpaAt:
              v === undefined
                ? undefined
                : { flowLpm: source.pressureDropKpaAt?.flowLpm ?? source.yieldLpm ?? 100, dropKpa: v },
          })
        }
      />
      <NumberField
        label="at a flow of"
        value={source.pressureDropKpaAt?.flowLpm}
        quantity="flow"
        system={units}
        min={0.1}
        max={1_000_000}
        disabled={!canEdit}
        onCommit={(v) =>
          put({
            pressureDropKpaAt:
              v === undefined ? undefined : { flowLpm: v, dropKpa: source.pressureDropKpaAt?.dropKpa ?? 0 },
          })
        }
      />
      <NumberField
        label="Priority (lowest first)"
        value={source.priority ?? 1}
        min={0}
        max={1000}
        whole
        disabled={!canEdit}
        onCommit={(v) => put({ priority: v })}
      />
      <div className="self-end flex flex-wrap gap-x-4">
        <TickField
          label="in use"
          checked={source.enabled !== false}
          disabled={!canEdit}
          onCommit={(v) => put({ enabled: v ? undefined : false })}
        />
        <TickField
          label="drinking water"
          checked={source.potable ?? source.kind === "municipal"}
          disabled={!canEdit}
          onCommit={(v) => put({ potable: v })}
        />
      </div>
      <div className="col-span-2">
        <WindowList
          label="Available hours (none: always)"
          value={source.hours}
          onCommit={(hours) => put({ hours })}
          disabled={!canEdit}
        />
      </div>
      <div className="col-span-2">
        <MonthsField
          label="Budget by month"
          unit="m³"
          value={source.monthlyBudgetM3}
          usual={undefined}
          max={1e9}
          disabled={!canEdit}
          onCommit={(monthlyBudgetM3) => put({ monthlyBudgetM3 })}
        />
      </div>
      {source.kind === "reclaimed" && (
        <div className="col-span-2">
          <Caution>Reclaimed water: not for drinking; marking, spray hours and setbacks as the permit says.</Caution>
        </div>
      )}
    </div>
  );
}

const toggle = (list: string[], id: string, on: boolean): string[] =>
  on ? [...list, id] : list.filter((x) => x !== id);
const RESPONSES = [
  ["notify", "notify"],
  ["stopStation", "stop station"],
  ["findAndIsolate", "find and isolate"],
  ["stopAll", "stop all"],
] as const;

export function PocForm({ poc }: { poc: Poc }) {
  const { draft, edit, units, canEdit } = useWorkspace("draft", "edit", "units", "canEdit");
  const put = (values: Patch<Poc>): void => edit(patchPoc(poc.id, values));
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2">
      <TextField
        label="Name"
        value={poc.name}
        disabled={!canEdit}
        onCommit={(v) => put({ name: v.trim() || poc.name })}
      />
      <fieldset>
        <legend className="text-sm text-faint">Draws on</legend>
        {draft.sources.length === 0 && <span className="text-sm">Add a source first.</span>}
        {draft.sources.map((s) => (
          <div key={s.id}>
            <TickField
              label={s.name}
              checked={poc.sourceIds.includes(s.id)}
              disabled={!canEdit}
              onCommit={(on) => put({ sourceIds: toggle(poc.sourceIds, s.id, on) })}
            />
          </div>
        ))}
      </fieldset>
      <NumberField
        label="Level"
        value={poc.elevationM}
        quantity="length"
        system={units}
        min={-500}
        max={9000}
        disabled={!canEdit}
        hint="empty: its source's"
        onCommit={(v) => put({ elevationM: v })}
      />
      <span />
      <EnteredCeiling element={poc} put={put} />
      <NumberField
        label="Burst limit"
        value={poc.burstLimitLpm}
        quantity="flow"
        system={units}
        min={0}
        max={1_000_000}
        disabled={!canEdit}
        onCommit={(v) => put({ burstLimitLpm: v })}
      />
      <ChoiceField
        label="at burst"
        value={poc.burstResponse ?? "stopAll"}
        disabled={!canEdit}
        options={RESPONSES}
        onCommit={(v) => put({ burstResponse: v })}
      />
      <NumberField
        label="Off-schedule limit"
        value={poc.offScheduleLimitLpm}
        quantity="flow"
        system={units}
        min={0}
        max={1_000_000}
        disabled={!canEdit}
        onCommit={(v) => put({ offScheduleLimitLpm: v })}
      />
      <ChoiceField
        label="at off-schedule flow"
        value={poc.offScheduleResponse ?? "notify"}
        disabled={!canEdit}
        options={RESPONSES}
        onCommit={(v) => put({ offScheduleResponse: v })}
      />
      <TextField
        label="Approved separation, where waters can meet"
        value={poc.approvedSeparation ?? ""}
        disabled={!canEdit}
        onCommit={(v) => put({ approvedSeparation: v.trim() || undefined })}
      />
    </div>
  );
}

function EnteredCeiling({
  element,
  put,
}: {
  element: Poc | Mainline;
  put: (v: Patch<Pick<Poc, "ceilingLpm" | "ceilingReason">>) => void;
}) {
  const { units, canEdit } = useWorkspace("units", "canEdit");
  return (
    <>
      <NumberField
        label="Ceiling by hand"
        value={element.ceilingLpm}
        quantity="flow"
        system={units}
        min={0}
        max={1_000_000}
        disabled={!canEdit}
        hint="lowers freely; raises only with a reason"
        onCommit={(v) => put({ ceilingLpm: v })}
      />
      <TextField
        label="Reason"
        value={element.ceilingReason ?? ""}
        disabled={!canEdit}
        onCommit={(v) => put({ ceilingReason: v.trim() || undefined })}
      />
    </>
  );
}

export function MainlineForm({ mainline }: { mainline: Mainline }) {
  const { draft, edit, units, canEdit } = useWorkspace("draft", "edit", "units", "canEdit");
  const fill = fillTime(draft, mainline.id);
  const put = (values: Patch<Mainline>): void => edit(patchMainline(mainline.id, values));
  const feeds = [
    ...draft.pocs,
    ...draft.mainlines.filter((m) => m.id !== mainline.id && !isFedBy(draft, m.id, mainline.id)),
  ];
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2">
      <TextField
        label="Name"
        value={mainline.name}
        disabled={!canEdit}
        onCommit={(v) => put({ name: v.trim() || mainline.name })}
      />
      <fieldset>
        <legend className="text-sm text-faint">Fed by</legend>
        {feeds.length === 0 && <span className="text-sm">Add a point of connection first.</span>}
        {feeds.map((f) => (
          <div key={f.id}>
            <TickField
              label={f.name}
              checked={mainline.feedIds.includes(f.id)}
              disabled={!canEdit}
              onCommit={(on) => put({ feedIds: toggle(mainline.feedIds, f.id, on) })}
            />
          </div>
        ))}
      </fieldset>
      <EnteredCeiling element={mainline} put={put} />
      <NumberField
        label="Hold-off"
        unit="s"
        value={mainline.holdOffS ?? 60}
        min={0}
        max={86_400}
        whole
        disabled={!canEdit}
        onCommit={(v) => put({ holdOffS: v })}
      />
      <NumberField
        label="Filling, first opening"
        unit="s"
        value={mainline.fillS ?? 120}
        min={0}
        max={86_400}
        whole
        disabled={!canEdit}
        onCommit={(v) => put({ fillS: v })}
      />
      <NumberField
        label="Level"
        value={mainline.elevationM}
        quantity="length"
        system={units}
        min={-500}
        max={9000}
        disabled={!canEdit}
        hint="empty: its feed's"
        onCommit={(v) => put({ elevationM: v })}
      />
      <NumberField
        label="Leaves its feed at"
        value={mainline.feedAtM}
        quantity="length"
        system={units}
        min={0}
        max={100_000}
        disabled={!canEdit || !draft.mainlines.some((m) => mainline.feedIds.includes(m.id))}
        hint="along the main that feeds it; empty: at its end"
        onCommit={(v) => put({ feedAtM: v })}
      />
      {fill.litres > 0 && (
        <p className="col-span-2 text-sm">
          {fill.mains.length > 1 ? `With the ${fill.mains.length - 1} under it, it` : "It"} holds{" "}
          {showQuantity(fill.litres, "volume", units)}.{" "}
          {fill.seconds === null || fill.fillingLpm === null ? (
            "No ceiling says how fast it fills."
          ) : (
            <>
              At {showQuantity(fill.fillingLpm, "flow", units)} an empty main takes {Math.floor(fill.seconds / 60)} min{" "}
              {fill.seconds % 60} s.{" "}
              {canEdit && fill.seconds !== (mainline.fillS ?? 120) && (
                <Button onClick={() => put({ fillS: Math.min(86_400, fill.seconds as number) })}>
                  Take {fill.seconds} s as first-opening hold-off
                </Button>
              )}
            </>
          )}
        </p>
      )}
      <p className="col-span-2 text-sm text-faint">
        Feeds are one-way; a main that this one feeds cannot feed it.{" "}
        {mainline.feedIds.length > 1
          ? "Dividing flow over several feeds is necessary, not sufficient; Pressure solves what each really gives."
          : ""}
      </p>
    </div>
  );
}

type Linking = "linked" | "share" | "hours" | "loose";

function linkingOf(controller: Controller): Linking {
  if (controller.unlinkedShare !== undefined) return "share";
  if (controller.unlinkedHours) return "hours";
  return controller.unlinked ? "loose" : "linked";
}

export function ControllerForm({ controller }: { controller: Controller }) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const put = (values: Patch<Controller>): void => edit(patchController(controller.id, values));
  const load = controllerLoad(draft, controller);
  const { all } = useProfiles();
  const linking = linkingOf(controller);
  const link = (to: Linking): void =>
    put({
      unlinked: to === "linked" ? undefined : true,
      unlinkedShare: to === "share" ? 0.5 : undefined,
      unlinkedHours: to === "hours" ? [{ from: "01:00", to: "05:00" }] : undefined,
    });
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2">
      <TextField
        label="Name"
        value={controller.name}
        disabled={!canEdit}
        onCommit={(v) => put({ name: v.trim() || controller.name })}
      />
      <ChoiceField
        label="Powered by"
        value={controller.powered}
        disabled={!canEdit}
        options={[
          ["mains", "mains, 24 V AC to its valves"],
          ["battery", "battery, latching DC coils"],
        ]}
        onCommit={(v) => put({ powered: v })}
      />
      <NumberField
        label="Stations at most"
        value={controller.maxStations}
        min={1}
        max={10_000}
        whole
        disabled={!canEdit}
        onCommit={(v) => put({ maxStations: v })}
      />
      <NumberField
        label="Stations at once"
        value={controller.maxStationsAtOnce}
        min={1}
        max={10_000}
        whole
        disabled={!canEdit}
        onCommit={(v) => put({ maxStationsAtOnce: v })}
      />
      <ChoiceField
        label="With the other controllers"
        value={linking}
        disabled={!canEdit}
        options={[
          ["linked", "linked: one dispatch"],
          ["share", "unlinked, a fixed share"],
          ["hours", "unlinked, hours of its own"],
          ["loose", "unlinked, neither settled"],
        ]}
        onCommit={link}
      />
      {linking === "share" && (
        <NumberField
          label="Share of every ceiling"
          unit="%"
          value={Number(((controller.unlinkedShare ?? 0) * 100).toFixed(4))}
          min={0}
          max={100}
          required
          disabled={!canEdit}
          onCommit={(v) => put({ unlinkedShare: (v ?? 0) / 100 })}
        />
      )}
      {linking === "hours" && (
        <div className="col-span-2">
          <WindowList
            label="Its own hours; the others get nothing of its mains then"
            value={controller.unlinkedHours}
            onCommit={(hours) => put({ unlinkedHours: hours ?? [] })}
            disabled={!canEdit}
          />
        </div>
      )}
      {linking === "loose" && (
        <p className="col-span-2 text-sm border-l-4 border-warning pl-2">
          <strong>Caution.</strong> It will open valves whatever the others run. Give it a share, or hours of its own.
        </p>
      )}
      <ChoiceField
        label="Kind, by its profile"
        value={controller.profileId ?? ""}
        disabled={!canEdit}
        options={[
          ["", "none"],
          ...(controller.profileId && !all.some((p) => p.id === controller.profileId)
            ? [[controller.profileId, "a kind not described here"] as const]
            : []),
          ...all.map((p) => [p.id, p.name] as const),
        ]}
        hint="its setup sheet is rounded to it"
        onCommit={(v) => put({ profileId: v === "" ? undefined : v })}
      />
      <NumberField
        label="Current it can hold"
        unit="mA"
        value={controller.budgetMa}
        min={0}
        max={1_000_000}
        disabled={!canEdit}
        onCommit={(v) => put({ budgetMa: v })}
      />
      <div className="self-end">
        <TickField
          label="off"
          checked={controller.off === true}
          disabled={!canEdit}
          onCommit={(v) => put({ off: v ? true : undefined })}
        />
      </div>
      <p className="col-span-2 text-sm">{loadWords(load)}</p>
    </div>
  );
}
