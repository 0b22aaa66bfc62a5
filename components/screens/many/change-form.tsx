"use client";
import { useProfiles } from "@/components/data/use-profiles";
import { DateField } from "@/components/kit/date-field";
import { ChoiceField, NumberField, TextField } from "@/components/kit/fields";
import { type DeedChange, isOffice, OFFICE_NAMES, type OfficeKind } from "@/contracts/office-change";
import { MONTHS } from "@/core/dates/months";
import { SCHOOLS } from "@/core/limits/schools";
import {
  BEGUN_ELSEWHERE,
  INPUT_KINDS,
  MANY,
  SOURCE_KINDS,
  type ManyChange,
  type ManyKind,
} from "@/core/many/many-change";
import { showNumber, toShown } from "@/core/units/units";
import { MOST_PERCENT } from "@/core/site-file/basics-schema";
import { OfficeFigures, usualOffice } from "./office-figures";
import { type ChosenKind, usual } from "./usual-change";

const KINDS = Object.entries(MANY).map(([kind, { name }]) => [kind as ManyKind, name] as const);
/** What is copied from elsewhere is begun there, and stands in the list only while it is what is done. */
const kindsBeside = (now: ManyKind | null) => KINDS.filter(([kind]) => kind === now || !BEGUN_ELSEWHERE.has(kind));
const isOfficeKind = (kind: string): kind is OfficeKind => Object.hasOwn(OFFICE_NAMES, kind);
const isChosen = (kind: ManyKind): kind is ChosenKind => !BEGUN_ELSEWHERE.has(kind);
/** What the office sorts and says by itself. */
const OFFICE_KINDS = Object.entries(OFFICE_NAMES).map(([kind, name]) => [kind as OfficeKind, name] as const);
type Put = (change: ManyChange) => void;
type PutAny = (change: DeedChange) => void;

/** What is changed, and its figure. */
export function ChangeForm({
  change,
  today,
  isManager,
  disabled,
  onChange,
}: {
  change: DeedChange;
  today: string;
  isManager: boolean;
  disabled: boolean;
  onChange: PutAny;
}) {
  const office = isOffice(change);
  const kinds: (readonly [ManyKind | OfficeKind, string])[] = [
    ...kindsBeside(office ? null : change.kind),
    ...(isManager ? OFFICE_KINDS : []),
  ];
  const begin = (kind: ManyKind | OfficeKind): void => {
    if (isOfficeKind(kind)) onChange(usualOffice(kind));
    else if (isChosen(kind)) onChange(usual(kind, today));
  };
  return (
    <fieldset disabled={disabled} className="grid gap-3">
      <legend className="sr-only">The change</legend>
      <ChoiceField label="What" value={change.kind} options={kinds} onCommit={begin} />
      {office ? (
        <OfficeFigures change={change} put={onChange} />
      ) : (
        <Figures change={change} today={today} put={onChange} />
      )}
    </fieldset>
  );
}

function Figure({
  label,
  unit,
  value,
  range: [min, max],
  put,
}: {
  label: string;
  unit: string;
  value: number;
  range: [number, number];
  put: (value: number) => void;
}) {
  return (
    <NumberField
      label={label}
      unit={unit}
      value={value}
      min={min}
      max={max}
      whole
      required
      onCommit={(n) => n !== undefined && put(n)}
    />
  );
}

function OfProgram<C extends Extract<ManyChange, { program: string }>>({ change, put }: { change: C; put: Put }) {
  return (
    <TextField
      label="Program, by its name"
      hint="Sites that have none of this name are left as they are."
      value={change.program}
      onCommit={(program) => put({ ...change, program } as ManyChange)}
    />
  );
}

function Figures({ change, today, put }: { change: ManyChange; today: string; put: Put }) {
  const percent = (value: number, made: (n: number) => ManyChange) => (
    <Figure label="To" unit="%" value={value} range={[0, MOST_PERCENT]} put={(n) => put(made(n))} />
  );
  const days = (value: number, made: (n: number) => ManyChange) => (
    <Figure label="For" unit="days" value={value} range={[1, 90]} put={(n) => put(made(n))} />
  );
  switch (change.kind) {
    case "holdDays":
      return days(change.days, (n) => ({ ...change, days: n }));
    case "holdUntil":
      return <Until change={change} today={today} put={put} />;
    case "resume":
      return <p className="text-faint">The hold of the site ends; holds of single programs stay.</p>;
    case "percent":
      return percent(change.percent, (n) => ({ ...change, percent: n }));
    case "percentBy":
      return (
        <Figure
          label="By, of what it is"
          unit="%"
          value={change.percent}
          range={[-90, 200]}
          put={(n) => put({ ...change, percent: n })}
        />
      );
    case "monthPercent":
      return (
        <>
          <ChoiceField
            label="Month"
            value={String(change.month)}
            options={MONTHS.map((name, i) => [String(i + 1), name] as const)}
            onCommit={(month) => put({ ...change, month: Number(month) })}
          />
          {percent(change.percent, (n) => ({ ...change, percent: n }))}
        </>
      );
    case "programInUse":
      return (
        <>
          <OfProgram change={change} put={put} />
          <ChoiceField
            label="Is"
            value={change.inUse ? "in" : "out"}
            options={[
              ["in", "in use"],
              ["out", "not in use"],
            ]}
            onCommit={(to) => put({ ...change, inUse: to === "in" })}
          />
        </>
      );
    case "programPercent":
      return (
        <>
          <OfProgram change={change} put={put} />
          {percent(change.percent, (n) => ({ ...change, percent: n }))}
        </>
      );
    case "programHold":
      return (
        <>
          <OfProgram change={change} put={put} />
          {days(change.days, (n) => ({ ...change, days: n }))}
        </>
      );
    case "starts":
      return (
        <Figure
          label="Later by; less than 0 is earlier"
          unit="min"
          value={change.minutes}
          range={[-720, 720]}
          put={(n) => put({ ...change, minutes: n })}
        />
      );
    case "inputBypassed":
      return <Inputs change={change} put={put} />;
    case "profile":
      return <Profile change={change} put={put} />;
    case "waterPrice":
      return <WaterPrice change={change} put={put} />;
    case "programAs":
      return (
        <p className="text-faint">
          Days, starts and settings of {change.program.name} on {change.from}. Where a program of this name is there,
          its stations and minutes stay; else it begins on the first controller, without stations.
        </p>
      );
    case "controllersAs":
      return (
        <p className="text-faint">
          Kind, power, current and how much it takes, as on {change.from}, for every controller. Names, wires and what
          each is to the others stay.
        </p>
      );
    case "startingPoint":
      return (
        <ChoiceField
          label="Starting point"
          value={change.school}
          options={SCHOOLS.map((s) => [s.id, `${s.name}: ${s.suits}`] as const)}
          onCommit={(school) => put({ ...change, school })}
        />
      );
    case "limits":
      return (
        <>
          <Figure
            label="High, over what is expected"
            unit="%"
            value={change.highPercent}
            range={[1, MOST_PERCENT]}
            put={(n) => put({ ...change, highPercent: n })}
          />
          <Figure
            label="Low, under it"
            unit="%"
            value={change.lowPercent}
            range={[0, 100]}
            put={(n) => put({ ...change, lowPercent: n })}
          />
          <Figure
            label="Persistence"
            unit="s"
            value={change.persistenceS}
            range={[0, 86_400]}
            put={(n) => put({ ...change, persistenceS: n })}
          />
        </>
      );
  }
}

type Of<K extends ManyKind> = { change: Extract<ManyChange, { kind: K }>; put: Put };

function Until({ change, today, put }: Of<"holdUntil"> & { today: string }) {
  return (
    <>
      <ChoiceField
        label="Until"
        value={change.until === "indefinite" ? "indefinite" : "day"}
        options={[
          ["day", "a day"],
          ["indefinite", "somebody resumes it"],
        ]}
        onCommit={(to) => put({ kind: "holdUntil", until: to === "day" ? today : "indefinite" })}
      />
      {change.until !== "indefinite" && (
        <DateField
          label="Nothing waters before"
          value={change.until}
          onCommit={(until) => until && put({ kind: "holdUntil", until })}
        />
      )}
    </>
  );
}

function Inputs({ change, put }: Of<"inputBypassed">) {
  return (
    <>
      <ChoiceField
        label="Inputs"
        value={change.input}
        options={INPUT_KINDS.map((k) => [k, k === "all" ? "all of them" : k] as const)}
        onCommit={(input) => put({ ...change, input })}
      />
      <ChoiceField
        label="Are"
        value={change.bypassed ? "bypassed" : "heard"}
        options={[
          ["heard", "heard"],
          ["bypassed", "bypassed"],
        ]}
        onCommit={(to) => put({ ...change, bypassed: to === "bypassed" })}
      />
    </>
  );
}

function WaterPrice({ change, put }: Of<"waterPrice">) {
  return (
    <>
      <ChoiceField
        label="Of sources"
        value={change.source}
        options={SOURCE_KINDS.map((k) => [k, k === "all" ? "of every kind" : k] as const)}
        onCommit={(source) => put({ ...change, source })}
      />
      <TextField
        label="Currency, three letters"
        value={change.currency}
        onCommit={(currency) => put({ ...change, currency: currency.trim().toUpperCase() })}
      />
      <NumberField
        label="Price"
        unit={`${change.currency} per m³`}
        hint={`${showNumber(change.perM3 / toShown(1, "bulk", "us"), 3)} per kgal. Steps of a source go.`}
        value={change.perM3}
        min={0}
        max={1e6}
        required
        onCommit={(n) => n !== undefined && put({ ...change, perM3: n })}
      />
    </>
  );
}

function Profile({ change, put }: Of<"profile">) {
  const { all } = useProfiles();
  return (
    <ChoiceField
      label="Kind of controller"
      value={change.profileId}
      options={all.map((p) => [p.id, p.name] as const)}
      onCommit={(profileId) => {
        const name = all.find((p) => p.id === profileId)?.name;
        if (name) put({ ...change, profileId, name });
      }}
    />
  );
}
