"use client";
import { DateField } from "@/components/kit/date-field";
import { ChoiceField, NumberField } from "@/components/kit/fields";
import { SCHOOLS } from "@/core/limits/schools";
import { MOST_PERCENT } from "@/core/site-file/basics-schema";
import { MANY, type ManyChange, type ManyKind } from "@/core/many/many-change";

const KINDS = Object.entries(MANY).map(([kind, { name }]) => [kind as ManyKind, name] as const);

/** A change of a kind to begin with. */
export function usual(kind: ManyKind, today: string): ManyChange {
  switch (kind) {
    case "holdDays":
      return { kind, days: 3 };
    case "holdUntil":
      return { kind, until: today };
    case "resume":
      return { kind };
    case "percent":
      return { kind, percent: 100 };
    case "percentBy":
      return { kind, percent: -10 };
    case "starts":
      return { kind, minutes: 60 };
    case "startingPoint":
      return { kind, school: "steady" };
  }
}

/** What is changed, and its figure. */
export function ChangeForm({
  change,
  today,
  disabled,
  onChange,
}: {
  change: ManyChange;
  today: string;
  disabled: boolean;
  onChange: (change: ManyChange) => void;
}) {
  return (
    <fieldset disabled={disabled} className="grid gap-3">
      <legend className="sr-only">The change</legend>
      <ChoiceField label="What" value={change.kind} options={KINDS} onCommit={(kind) => onChange(usual(kind, today))} />
      <Figure change={change} today={today} onChange={onChange} />
    </fieldset>
  );
}

function Figure({
  change,
  today,
  onChange,
}: {
  change: ManyChange;
  today: string;
  onChange: (change: ManyChange) => void;
}) {
  const number = (
    label: string,
    unit: string,
    value: number,
    [min, max]: [number, number],
    made: (n: number) => ManyChange,
  ) => (
    <NumberField
      label={label}
      unit={unit}
      value={value}
      min={min}
      max={max}
      whole
      required
      onCommit={(n) => n !== undefined && onChange(made(n))}
    />
  );
  switch (change.kind) {
    case "holdDays":
      return number("For", "days", change.days, [1, 90], (days) => ({ kind: "holdDays", days }));
    case "holdUntil":
      return (
        <>
          <ChoiceField
            label="Until"
            value={change.until === "indefinite" ? "indefinite" : "day"}
            options={[
              ["day", "a day"],
              ["indefinite", "somebody resumes it"],
            ]}
            onCommit={(to) => onChange({ kind: "holdUntil", until: to === "day" ? today : "indefinite" })}
          />
          {change.until !== "indefinite" && (
            <DateField
              label="Nothing waters before"
              value={change.until}
              onCommit={(until) => until && onChange({ kind: "holdUntil", until })}
            />
          )}
        </>
      );
    case "resume":
      return <p className="text-faint">The hold of the site ends; holds of single programs stay.</p>;
    case "percent":
      return number("To", "%", change.percent, [0, MOST_PERCENT], (percent) => ({ kind: "percent", percent }));
    case "percentBy":
      return number("By, of what it is", "%", change.percent, [-90, 200], (percent) => ({
        kind: "percentBy",
        percent,
      }));
    case "starts":
      return number("Later by; less than 0 is earlier", "min", change.minutes, [-720, 720], (minutes) => ({
        kind: "starts",
        minutes,
      }));
    case "startingPoint":
      return (
        <ChoiceField
          label="Starting point"
          value={change.school}
          options={SCHOOLS.map((s) => [s.id, `${s.name}: ${s.suits}`] as const)}
          onCommit={(school) => onChange({ kind: "startingPoint", school })}
        />
      );
  }
}
