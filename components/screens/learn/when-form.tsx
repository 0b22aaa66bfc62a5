import { useMemo } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { useConventions } from "@/components/kit/conventions";
import { DateField } from "@/components/kit/date-field";
import { NumberField } from "@/components/kit/fields";
import { Radio, Select } from "@/components/kit/inputs";
import { Mark } from "@/components/kit/notice";
import { TimeField } from "@/components/kit/time-field";
import { baselineSights } from "@/core/learn/baseline";
import type { Rehearsal } from "@/core/learn/rehearse";
import { waterworks } from "@/core/network/waterworks";
import type { Schedule } from "../../data/use-learning";
import { duration, WAITS } from "./words";

/** When learning runs, how long everything is closed before it, and how fast the bench goes. */
export function WhenForm({
  when,
  onWhen: setWhen,
  baselineMin,
  onBaseline: setBaselineMin,
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
      <div className="grid grid-cols-3 gap-2">
        <DateField
          label="Date"
          required
          value={when.date}
          disabled={running}
          className="w-44"
          onCommit={(v) => v && setWhen({ ...when, date: v })}
        />
        <TimeField
          label="From"
          required
          value={when.from}
          disabled={running}
          onCommit={(v) => v && setWhen({ ...when, from: v })}
        />
        <TimeField
          label="None past"
          value={when.to}
          disabled={running}
          onCommit={(v) => {
            const { to: _, ...rest } = when;
            setWhen(v ? { ...rest, to: v } : rest);
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
            onChange={() => setWhen({ ...when, later: false })}
          />
          start now, the bench's clock at {when.from}
        </label>
        <label className="inline-flex min-h-8 items-center gap-2">
          <Radio
            name="later"
            checked={when.later}
            disabled={running}
            onChange={() => setWhen({ ...when, later: true })}
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
          onCommit={(v) => setBaselineMin(v ?? 1)}
        />
        <label>
          <span className="block text-sm text-faint">Pace of the bench</span>
          <Select
            value={when.pace}
            onChange={(e) => setWhen({ ...when, pace: Number(e.target.value) })}
            disabled={running}
          >
            <option value={1}>as on site, 1 s a second</option>
            <option value={60}>a minute a second</option>
            <option value={240}>4 minutes a second</option>
            <option value={0}>as fast as it computes</option>
          </Select>
        </label>
      </div>
    </>
  );
}

/** What the test with everything closed can see, connection by connection. */
export function BaselineSights() {
  const { draft } = useWorkspace("draft");
  const { quantity } = useConventions();
  const sights = useMemo(() => baselineSights(waterworks(draft)), [draft]);
  return (
    <>
      {sights.map((s) => (
        <p key={s.pocs.join()} className="text-sm">
          <strong>{s.pocs.map((p) => draft.pocs[p]?.name).join(", ")}</strong>:{" "}
          {s.blind && "the baseline test is blind here, since with the pump off nothing stands under pressure."}
          {!s.blind && s.limitLpm > 0 && (
            <>
              with everything closed, a leak shows from <strong>{quantity(s.limitLpm, "flow")}</strong> on. A smaller
              one hides: read the meter before and after.
            </>
          )}
          {!s.blind && s.limitLpm <= 0 && "its sensor states no minimum; every reading counts as a leak."}
        </p>
      ))}
    </>
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
