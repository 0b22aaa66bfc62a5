"use client";
import { X, Plus } from "lucide-react";
import { DateField } from "@/components/kit/date-field";
import { Button } from "@/components/kit/button";
import { patched, type Patch } from "@/core/site-file/patch";
import { useNightDate } from "@/components/frame/use-night-date";
import { useWorkspace } from "@/components/draft/site-draft";

import { freshId } from "@/core/site-file/fresh-id";
import { ChoiceField, NumberField, TextField, TickField } from "@/components/kit/fields";
import { InputReadings } from "./input-readings";
import type { SiteFile } from "@/core/site-file/schema";

type Input = NonNullable<SiteFile["weatherInputs"]>[number];
const KINDS: [Input["kind"], string][] = [
  ["rain", "rain"],
  ["wind", "wind"],
  ["freeze", "frost"],
  ["moisture", "soil moisture"],
  ["temperature", "temperature"],
  ["switch", "a switch"],
];

/** The inputs that may stop the night, each with its own bypass, and who stops for it. */
export function WeatherInputs() {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const inputs = draft.weatherInputs ?? [];
  const put = (list: Input[], more?: (f: SiteFile) => SiteFile): void =>
    edit((f) => {
      const { weatherInputs: _, ...rest } = f;
      const next: SiteFile = list.length > 0 ? { ...rest, weatherInputs: list } : rest;
      return more ? more(next) : next;
    });
  const patch = (id: string, values: Patch<Input>): void =>
    put(inputs.map((w) => (w.id === id ? patched(w, values) : w)));
  const remove = (id: string): void =>
    put(
      inputs.filter((w) => w.id !== id),
      (f) => ({
        ...f,
        programs: f.programs.map((p) => {
          if (!p.onInputs?.some((r) => r.inputId === id)) return p;
          const { onInputs, ...rest } = p;
          const left = onInputs.filter((r) => r.inputId !== id);
          return left.length > 0 ? { ...rest, onInputs: left } : rest;
        }),
        stations: f.stations.map((s) => {
          if (!s.ignoresInputs?.includes(id)) return s;
          const { ignoresInputs, ...rest } = s;
          const left = ignoresInputs.filter((x) => x !== id);
          return left.length > 0 ? { ...rest, ignoresInputs: left } : rest;
        }),
      }),
    );
  const ruled = (id: string): string => {
    const names = draft.programs.filter((p) => p.onInputs?.some((r) => r.inputId === id)).map((p) => p.name);
    return names.length > 0 ? `; it starts or pauses ${names.join(", ")}` : "";
  };
  return (
    <section aria-label="Weather inputs" className="mt-3">
      <h3 className="text-lg">Weather inputs</h3>
      {inputs.length === 0 && (
        <p className="text-faint max-w-prose">
          None. Add the rain dish, frost or moisture sensor, or the switch that may stop this site; then set on Stations
          who ignores it, and try it on Night, What if.
        </p>
      )}
      {inputs.length > 0 && (
        <ul>
          {inputs.map((w) => {
            const ignoring = draft.stations.filter((s) => s.ignoresInputs?.includes(w.id)).length;
            return (
              <li key={w.id} className="flex flex-wrap items-end gap-3 border-b border-base-300 py-1">
                <div className="w-56">
                  <TextField
                    label="Name"
                    value={w.name}
                    disabled={!canEdit}
                    onCommit={(v) => patch(w.id, { name: v.trim() || w.name })}
                  />
                </div>
                <div className="w-40">
                  <ChoiceField
                    label="Measures"
                    value={w.kind}
                    options={KINDS}
                    disabled={!canEdit}
                    onCommit={(kind) => patch(w.id, { kind })}
                  />
                </div>
                <TickField
                  label="bypassed"
                  checked={w.bypassed === true}
                  disabled={!canEdit}
                  onCommit={(v) => patch(w.id, { bypassed: v ? true : undefined })}
                />
                <span className={`grow pb-1 ${w.bypassed ? "text-warning" : ""}`}>
                  {w.bypassed
                    ? "stops, starts and pauses nothing"
                    : `${draft.stations.length - ignoring} stations follow it, ${ignoring} ignore it${ruled(w.id)}`}
                </span>
                {canEdit && (
                  <Button rank="quiet" aria-label={`Remove ${w.name}`} onClick={() => remove(w.id)}>
                    <X className="size-4" aria-hidden />
                  </Button>
                )}
                <InputReadings input={w} onCommit={(readings) => patch(w.id, { readings })} />
              </li>
            );
          })}
        </ul>
      )}
      {canEdit && (
        <Button
          icon={Plus}
          className="my-2"
          onClick={() =>
            put([...inputs, { id: freshId(draft, "input"), name: `Rain ${inputs.length + 1}`, kind: "rain" }])
          }
        >
          Input
        </Button>
      )}
      <DayPercent />
    </section>
  );
}

/** What the weather makes of single days: a percent of the date shown, and those given for the days around it. */
function DayPercent() {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const [date, setDate] = useNightDate();
  const given = draft.site.weatherPercents ?? [];
  const bypassed = draft.site.weatherPercentBypassed === true;
  const put = (weatherPercents: typeof given, bypass: boolean): void =>
    edit((f) => {
      const { weatherPercents: _, weatherPercentBypassed: __, ...site } = f.site;
      return {
        ...f,
        site: {
          ...site,
          ...(weatherPercents.length > 0 ? { weatherPercents } : {}),
          ...(bypass ? { weatherPercentBypassed: true } : {}),
        },
      };
    });
  const set = (percent: number | undefined): void =>
    put(
      [...given.filter((w) => w.date !== date), ...(percent === undefined ? [] : [{ date, percent }])].sort((a, b) =>
        a.date.localeCompare(b.date),
      ),
      bypassed,
    );
  return (
    <div className="flex flex-wrap items-end gap-3" role="group" aria-label="Daily percent">
      <DateField label="Night of" required value={date} className="w-44" onCommit={(v) => v && setDate(v)} />
      <div className="w-44">
        <NumberField
          label="Percent from the weather"
          unit="%"
          value={given.find((w) => w.date === date)?.percent}
          min={0}
          max={1000}
          placeholder="100"
          disabled={!canEdit}
          onCommit={set}
        />
      </div>
      <TickField label="percent bypassed" checked={bypassed} disabled={!canEdit} onCommit={(v) => put(given, v)} />
      <span className={`pb-1 ${bypassed && given.length > 0 ? "text-warning" : "text-faint"}`}>
        {given.length === 0
          ? "No day has one. It multiplies the site's, the month's and the program's, for that night alone."
          : `${bypassed ? "not used: " : ""}${given
              .slice(-6)
              .map((w) => `${w.date.slice(5)} ${w.percent} %`)
              .join(" · ")}`}
      </span>
    </div>
  );
}
