"use client";
import { patchProgram } from "@/components/draft/patch-element";
import { Figure } from "@/components/draft/figure";
import { useMemo, useState } from "react";
import { removeProgram } from "@/components/draft/program-edits";
import { WordsFields } from "@/components/draft/words-fields";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { DateField } from "@/components/kit/date-field";
import { ChoiceField, NumberField, TextField, TickField } from "@/components/kit/fields";
import { InspectorPart } from "@/components/kit/inspector";
import { MonthsField } from "@/components/kit/months-field";
import { Mark } from "@/components/kit/notice";
import { WindowList } from "@/components/kit/window-list";
import { WeekGrid } from "@/components/pictures/week-grid";
import { check } from "@/core/check/check";
import type { Patch } from "@/core/site-file/patch";
import type { Program } from "@/core/site-file/schema";
import { startsOn } from "@/core/site-file/starts";
import { CalendarStrip } from "./calendar-strip";
import { DayRuleFields } from "./day-rule-fields";
import { EstablishPanel } from "./establish-panel";
import { InputRules } from "./input-rules";
import { StartTimes } from "./start-times";

type Props = { program: Program };

function usePut(program: Program): (values: Patch<Program>) => void {
  const { edit } = useWorkspace("edit");
  return (values) => edit(patchProgram(program.id, values));
}

/** When it runs: starts, days, hours. */
export function ProgramWhen({ program }: Props) {
  const { canEdit, date } = useWorkspace("canEdit", "date");
  const put = usePut(program);
  return (
    <section aria-label={`When ${program.name} runs`} className="flex flex-col gap-3">
      <StartTimes program={program} />
      <DayRuleFields days={program.days} date={date} disabled={!canEdit} onCommit={(days) => put({ days })} />
      <CalendarStrip program={program} />
      <WeekGrid
        windows={program.windows}
        closed={program.closedHours}
        starts={startsOn(program)}
        disabled={!canEdit}
        onCommit={(windows) => put({ windows })}
      />
      <WindowList
        label="Water window (none: always)"
        value={program.windows}
        disabled={!canEdit}
        onCommit={(windows) => put({ windows })}
      />
      <WindowList
        label="Closed hours"
        value={program.closedHours}
        disabled={!canEdit}
        onCommit={(closedHours) => put({ closedHours })}
      />
    </section>
  );
}

/** How it runs: numbers, percent, holds, inputs. */
export function ProgramHow({ program }: Props) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const put = usePut(program);
  const [establishing, setEstablishing] = useState(false);
  const held = program.holdUntil === "indefinite";
  return (
    <section aria-label={`How ${program.name} runs`}>
      <div className="grid grid-cols-2 gap-2">
        <TextField
          label="Name"
          className="col-span-2"
          value={program.name}
          disabled={!canEdit}
          onCommit={(v) => put({ name: v.trim() || program.name })}
        />
        <ChoiceField
          label="Controller"
          className="col-span-2"
          value={program.controllerId}
          disabled={!canEdit || program.runs.length > 0}
          hint={program.runs.length > 0 ? "take its stations out to move it, or copy it there" : undefined}
          options={draft.controllers.map((c) => [c.id, c.name] as const)}
          onCommit={(controllerId) => put({ controllerId })}
        />
        <Figure
          of={program}
          at="maxStationsAtOnce"
          put={put}
          usual={1}
          label="Stations at once"
          min={1}
          max={10_000}
          whole
        />
        <Figure
          of={program}
          at="delayS"
          put={put}
          usual={0}
          label="Delay between"
          unit="s"
          min={0}
          max={86_400}
          whole
        />
        <Figure of={program} at="priority" put={put} usual={1} label="Priority" min={0} max={1000} whole />
        <Figure
          of={program}
          at="seasonalPercent"
          put={put}
          usual={100}
          label="Seasonal percent"
          unit="%"
          min={0}
          max={1000}
        />
        <StationCycles program={program} />
        <ChoiceField
          label="One that does not fit"
          className="col-span-2"
          value={program.dispatch ?? "fill"}
          disabled={!canEdit}
          options={[
            ["fill", "is passed over (fill)"],
            ["strict", "stops the queue (strict)"],
          ]}
          onCommit={(dispatch) => put({ dispatch })}
        />
      </div>
      <InspectorPart title="In use">
        <TickField
          label="in use"
          checked={program.enabled !== false}
          disabled={!canEdit}
          onCommit={(v) => put({ enabled: v ? undefined : false })}
        />
        <div className="grid grid-cols-2 gap-2">
          <DateField
            label="from (that day too)"
            value={program.from}
            disabled={!canEdit}
            onCommit={(from) => put({ from })}
          />
          <DateField
            label="until (that day too)"
            value={program.until}
            disabled={!canEdit}
            onCommit={(until) => put({ until })}
          />
          <DateField
            label="Held until"
            hint="waters again that day"
            value={program.holdUntil && !held ? program.holdUntil : undefined}
            disabled={!canEdit || held}
            onCommit={(holdUntil) => put({ holdUntil })}
          />
          <div className="self-center">
            <TickField
              label="held, with no end"
              checked={held}
              disabled={!canEdit}
              onCommit={(v) => put({ holdUntil: v ? "indefinite" : undefined })}
            />
          </div>
        </div>
      </InspectorPart>
      <InspectorPart title="Percent by month">
        <MonthsField
          label="Percent by month"
          unit="%"
          value={program.monthlyPercent}
          usual={100}
          max={1000}
          disabled={!canEdit}
          onCommit={(monthlyPercent) => put({ monthlyPercent })}
        />
      </InspectorPart>
      <InspectorPart title="Inputs">
        <InputRules program={program} />
      </InspectorPart>
      <WordsFields of={program} put={put} />
      {canEdit && (
        <div className="mt-4 flex flex-wrap gap-2">
          <Button
            aria-expanded={establishing}
            disabled={program.runs.length === 0}
            onClick={() => setEstablishing(!establishing)}
          >
            Establish new turf or planting
          </Button>
          <Button rank="danger" onClick={() => edit(removeProgram(program.id))}>
            Delete program
          </Button>
        </div>
      )}
      {establishing && canEdit && <EstablishPanel program={program} />}
    </section>
  );
}

const CYCLES = [
  ["", "in one piece"],
  ["longestMin", "in cycles no longer than"],
  ["count", "in a number of cycles"],
] as const;

const kindOf = (cycle: Program["cycle"]): (typeof CYCLES)[number][0] => {
  if (cycle === undefined) return "";
  return "count" in cycle ? "count" : "longestMin";
};

/** Cycles and soak of the stations that have none of their own. */
function StationCycles({ program }: Props) {
  const { canEdit } = useWorkspace("canEdit");
  const put = usePut(program);
  const { cycle } = program;
  return (
    <>
      <ChoiceField
        label="Stations without cycles of their own run"
        className="col-span-2"
        value={kindOf(cycle)}
        disabled={!canEdit}
        options={CYCLES}
        onCommit={(v) =>
          put({
            cycle: { "": undefined, longestMin: { longestMin: 5 }, count: { count: 3 } }[v],
          })
        }
      />
      {cycle && (
        <NumberField
          label={"count" in cycle ? "Cycles" : "Longest cycle"}
          unit={"count" in cycle ? undefined : "min"}
          value={"count" in cycle ? cycle.count : cycle.longestMin}
          min={"count" in cycle ? 1 : 0.1}
          max={"count" in cycle ? 100 : 1440}
          whole={"count" in cycle}
          required
          disabled={!canEdit}
          onCommit={(v) => v !== undefined && put({ cycle: "count" in cycle ? { count: v } : { longestMin: v } })}
        />
      )}
      <Figure of={program} at="soakMin" put={put} usual={0} label="Usual soak" unit="min" min={0} max={1440} />
    </>
  );
}

const TONE = { error: "text-error font-semibold", warning: "text-warning", note: "text-faint" } as const;

/** What is wrong or doubtful about it. */
export function ProgramFindings({ program }: Props) {
  const { draft } = useWorkspace("draft");
  const findings = useMemo(() => check(draft).filter((f) => f.subjectId === program.id), [draft, program.id]);
  if (findings.length === 0) return null;
  return (
    <ul className="mb-2">
      {findings.map((f) => (
        <li key={f.code + f.path} className={classes(TONE[f.severity])}>
          {f.severity !== "note" && <Mark tone={f.severity === "error" ? "alarm" : "caution"} />} {f.message}
        </li>
      ))}
    </ul>
  );
}
