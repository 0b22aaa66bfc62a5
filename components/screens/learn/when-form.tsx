import { useMemo } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { useConventions } from "@/components/kit/conventions";
import { DateField } from "@/components/kit/date-field";
import { ChoiceField, NumberField } from "@/components/kit/fields";
import { Radio } from "@/components/kit/inputs";
import { Mark } from "@/components/kit/notice";
import { TimeField } from "@/components/kit/time-field";
import { baselineSights } from "@/core/learn/baseline";
import type { Rehearsal } from "@/core/learn/rehearse";
import { waterworks } from "@/core/network/waterworks";
import type { Schedule } from "../../data/use-learning";
import { duration, WAITS } from "./words";

const PACES: readonly [string, string][] = [
  ["1", "as on site, 1 s a second"],
  ["60", "a minute a second"],
  ["240", "4 minutes a second"],
  ["0", "as fast as it computes"],
];

/** When learning runs, how long everything is closed before it, and how fast the bench goes. */
export function WhenForm({
  when,
  onWhen,
  baselineMin,
  onBaseline,
  running,
}: {
  when: Schedule;
  onWhen: (when: Schedule) => void;
  baselineMin: number;
  onBaseline: (minutes: number) => void;
  running: boolean;
}) {
  return (
    <>
      <div className="flex flex-wrap gap-2">
        <DateField
          label="Date"
          required
          value={when.date}
          disabled={running}
          className="w-44"
          onCommit={(v) => v && onWhen({ ...when, date: v })}
        />
        <TimeField
          label="From"
          required
          value={when.from}
          disabled={running}
          onCommit={(v) => v && onWhen({ ...when, from: v })}
        />
        <TimeField
          label="None past"
          value={when.to}
          disabled={running}
          onCommit={(v) => {
            const { to: _, ...rest } = when;
            onWhen(v ? { ...rest, to: v } : rest);
          }}
        />
      </div>
      <p className="text-sm text-faint">Hand-watering hours and scheduled runs are waited for.</p>
      <fieldset className="flex flex-wrap gap-x-4">
        <legend className="sr-only">Start</legend>
        <label className="inline-flex min-h-8 items-center gap-2">
          <Radio
            name="later"
            checked={!when.later}
            disabled={running}
            onChange={() => onWhen({ ...when, later: false })}
          />
          start now, the bench's clock at {when.from}
        </label>
        <label className="inline-flex min-h-8 items-center gap-2">
          <Radio
            name="later"
            checked={when.later}
            disabled={running}
            onChange={() => onWhen({ ...when, later: true })}
          />
          start when that hour comes
        </label>
      </fieldset>
      <div className="grid grid-cols-2 gap-2">
        <NumberField
          label="Baseline"
          unit="min"
          value={baselineMin}
          min={0.5}
          max={60}
          required
          disabled={running}
          onCommit={(v) => onBaseline(v ?? 1)}
        />
        <ChoiceField
          label="Pace of the bench"
          value={String(when.pace)}
          disabled={running}
          options={PACES}
          onCommit={(pace) => onWhen({ ...when, pace: Number(pace) })}
        />
      </div>
    </>
  );
}

/** What the test with everything closed can see, connection by connection. */
export function BaselineSights() {
  const { draft } = useWorkspace("draft");
  const { quantity } = useConventions();
  const sights = useMemo(() => baselineSights(waterworks(draft)), [draft]);
  const names = (s: (typeof sights)[number]): string => s.pocs.map((p) => draft.pocs[p]?.name).join(" and ");
  const blind = sights.filter((s) => s.blind);
  const without = sights.filter((s) => !s.blind && s.limitLpm <= 0);
  const seeing = sights.filter((s) => !s.blind && s.limitLpm > 0);
  return (
    <div className="text-sm">
      {seeing.length > 0 && (
        <p>
          With everything closed, a leak shows from{" "}
          {seeing.map((s, i) => (
            <span key={s.pocs.join()}>
              {i > 0 && ", "}
              <strong>{quantity(s.limitLpm, "flow")}</strong> on at {names(s)}
            </span>
          ))}
          . A smaller one hides: read the meter before and after.
        </p>
      )}
      {blind.length > 0 && (
        <p>
          The baseline test is blind at {blind.map(names).join(", ")}, since with the pump off nothing stands under
          pressure.
        </p>
      )}
      {without.length > 0 && (
        <p>The sensor of {without.map(names).join(", ")} states no minimum; every reading counts as a leak.</p>
      )}
    </div>
  );
}

/** What a learning would take of time and water, when it would end, and what is in its way. */
export function Estimate({
  rehearsal,
  when,
}: {
  rehearsal: Rehearsal | null | "computing" | "nothing";
  when: Schedule;
}) {
  const { quantity, date: write } = useConventions();
  const estimate = typeof rehearsal === "string" ? null : rehearsal;
  return (
    <p role="status" aria-live="polite" className="border-l-4 pl-3 py-1" style={{ borderColor: "var(--water)" }}>
      {rehearsal === "nothing" && "Choose a station."}
      {rehearsal === "computing" && "Working out what it takes…"}
      {rehearsal === null && "What it takes could not be worked out; learning itself is not held up."}
      {estimate && (
        <>
          <strong>{duration(estimate.seconds)}</strong> of site time,{" "}
          <strong>{quantity(estimate.litres, "volume")}</strong>; ends{" "}
          {estimate.endsAt.slice(0, 10) === when.date ? "" : `${write(estimate.endsAt.slice(0, 10))} `}
          <strong>{estimate.endsAt.slice(11, 16)}</strong>. What does not settle adds up to{" "}
          {duration(estimate.atMostMoreS)}.
          {estimate.waits.map((x) => (
            <span key={x.from + x.why} className="block">
              Waits for {WAITS[x.why]}, {x.from.slice(11, 16)} to {x.to.slice(11, 16)}.
            </span>
          ))}
          {estimate.leftIds.length > 0 && (
            <span className="block text-warning font-semibold">
              <Mark tone="caution" /> Until {when.to} it leaves {estimate.leftIds.length} station
              {estimate.leftIds.length > 1 ? "s" : ""}; go on with them later.
            </span>
          )}
        </>
      )}
    </p>
  );
}
