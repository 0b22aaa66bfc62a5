"use client";
import { RESPONSES } from "@/components/words/response-words";
import { patchMainline, patchPoc, patchSource } from "@/components/draft/patch-element";
import { Figure } from "@/components/draft/figure";
import { Button } from "@/components/kit/button";
import { Caution } from "@/components/kit/notice";
import type { Patch } from "@/core/site-file/patch";
import { ChoiceField, NumberField, TextField, TickField } from "@/components/kit/fields";
import { MonthsField } from "@/components/kit/months-field";
import { useWorkspace } from "@/components/draft/site-draft";
import { fillTime } from "@/core/hydraulics/main-facts";
import type { Mainline, Poc, Source } from "@/core/site-file/schema";
import { fromShown, showQuantity, toShown, unitLabel } from "@/core/units/units";
import { isFedBy } from "../../draft/waterworks-edits";
import { PriceField } from "./price-field";
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
      <Figure of={source} at="yieldLpm" put={put} label="Sustained yield" quantity="flow" />
      <Figure of={source} at="staticPressureKpa" put={put} label="Static pressure" quantity="pressure" />
      <Figure
        of={source}
        at="elevationM"
        put={put}
        label="Level of that pressure"
        quantity="length"
        min={-500}
        max={9000}
        hint={
          source.kind === "well" || source.kind === "pond"
            ? "the water's surface when pumped"
            : "above any datum, the same for the whole site"
        }
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
      <Figure of={source} at="priority" put={put} usual={1} label="Priority (lowest first)" min={0} max={1000} whole />
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
          unit={unitLabel("bulk", units)}
          value={source.monthlyBudgetM3?.map((m3) => Number(toShown(m3, "bulk", units).toPrecision(9)))}
          usual={undefined}
          max={1e9}
          disabled={!canEdit}
          onCommit={(shown) => put({ monthlyBudgetM3: shown?.map((v) => fromShown(v, "bulk", units)) })}
        />
      </div>
      <PriceField
        price={source.price}
        onCommit={(price, currency) =>
          edit((file) => {
            const priced = patchSource(source.id, { price })(file);
            return price ? { ...priced, site: { ...priced.site, currency } } : priced;
          })
        }
      />
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
export function PocForm({ poc }: { poc: Poc }) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
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
      <Figure
        of={poc}
        at="elevationM"
        put={put}
        label="Level"
        quantity="length"
        min={-500}
        max={9000}
        hint="empty: its source's"
      />
      <div className="self-end">
        <TickField
          label="in use"
          checked={poc.enabled !== false}
          disabled={!canEdit}
          onCommit={(v) => put({ enabled: v ? undefined : false })}
        />
      </div>
      <EnteredCeiling element={poc} put={put} />
      <Figure of={poc} at="burstLimitLpm" put={put} label="Burst limit" quantity="flow" />
      <ChoiceField
        label="at burst"
        value={poc.burstResponse ?? "stopAll"}
        disabled={!canEdit}
        options={RESPONSES}
        onCommit={(v) => put({ burstResponse: v })}
      />
      <Figure of={poc} at="offScheduleLimitLpm" put={put} label="Off-schedule limit" quantity="flow" />
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
  const { canEdit } = useWorkspace("canEdit");
  return (
    <>
      <Figure
        of={element}
        at="ceilingLpm"
        put={put}
        label="Ceiling by hand"
        quantity="flow"
        hint="lowers freely; raises only with a reason"
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
      <div className="self-end">
        <TickField
          label="in use"
          checked={mainline.enabled !== false}
          disabled={!canEdit}
          onCommit={(v) => put({ enabled: v ? undefined : false })}
        />
      </div>
      <span />
      <Figure of={mainline} at="holdOffS" put={put} usual={60} label="Hold-off" unit="s" min={0} max={86_400} whole />
      <Figure
        of={mainline}
        at="fillS"
        put={put}
        usual={120}
        label="Filling, first opening"
        unit="s"
        min={0}
        max={86_400}
        whole
      />
      <Figure
        of={mainline}
        at="elevationM"
        put={put}
        label="Level"
        quantity="length"
        min={-500}
        max={9000}
        hint="empty: its feed's"
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
