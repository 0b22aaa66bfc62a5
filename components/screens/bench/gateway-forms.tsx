"use client";
import { useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { DateField } from "@/components/kit/date-field";
import { NumberField } from "@/components/kit/fields";
import { TimeField } from "@/components/kit/time-field";
import type { FaultRequest } from "@/core/bench/faults/resolve";
import { addDays, instantOf, localIso } from "@/core/dates/wall-time";
import type { useField } from "../../data/use-field";
import { FaultList } from "./fault-list";

type Act = ReturnType<typeof useField>["act"];

/** For a gateway that plays a site: from when, how fast, with what wrong. */
export function PlayForm({ pace, at, act }: { pace: number; at: string | null; act: Act }) {
  const { draft, date } = useWorkspace("draft", "date");
  const zone = draft.site.timeZone;
  const [from, setFrom] = useState(`${addDays(date, -1)}T20:00`);
  const [speed, setSpeed] = useState(pace);
  const [faults, setFaults] = useState<FaultRequest[]>([]);
  const [said, setSaid] = useState<string | null>(null);
  const send = async (body: unknown, words: string): Promise<void> => {
    setSaid((await act("POST", "/play", body)) ? words : null);
  };
  return (
    <fieldset className="border-t border-base-300 mt-4 pt-2" aria-label="Play the simulated site">
      <h3 className="text-lg">Play the simulated site</h3>
      <FaultList
        faults={faults}
        onChange={setFaults}
        date={localIso(zone, Math.floor(Date.now() / 1000)).slice(0, 10)}
        calm="Nothing wrong with it."
        from={at ? localIso(zone, Math.floor(Date.parse(at) / 1000)).slice(11, 19) : "+300"}
      />
      <div className="flex flex-wrap items-end gap-3 mt-2">
        <DateField
          label="From, on the site's clock"
          required
          className="w-44"
          value={from.slice(0, 10)}
          onCommit={(v) => v && setFrom(`${v}${from.slice(10)}`)}
        />
        <TimeField
          label="at"
          required
          value={from.slice(11, 16)}
          onCommit={(v) => v && setFrom(`${from.slice(0, 11)}${v}`)}
        />
        <div className="w-40">
          <NumberField
            label="Seconds of it in one"
            unit="s"
            value={speed}
            min={1}
            max={3600}
            required
            onCommit={(v) => setSpeed(v ?? 1)}
          />
        </div>
        <Button
          rank="main"
          onClick={() =>
            void send(
              {
                from: new Date(instantOf(zone, from.slice(0, 10), from.slice(11, 16)) * 1000).toISOString(),
                pace: speed,
                faults,
              },
              "It plays from there. Never ahead of the clock.",
            )
          }
        >
          Play from there
        </Button>
        <Button
          onClick={() =>
            void send(
              { pace: speed, faults },
              faults.length > 0 ? "The faults are on it." : "Nothing is wrong with it any more.",
            )
          }
        >
          Go on where it is, with these faults
        </Button>
        {said && <span role="status">{said}</span>}
      </div>
    </fieldset>
  );
}
