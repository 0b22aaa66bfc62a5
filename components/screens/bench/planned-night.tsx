"use client";
import { useMemo, useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { useNightOf } from "@/components/draft/use-night-of";
import { useWidth } from "@/components/kit/use-width";
import { Braid } from "@/components/pictures/braid/braid";
import { braidOf } from "@/components/pictures/braid/braid-data";

import { usePxPerMinute } from "@/components/pictures/braid/use-px-per-minute";
import { BENCH_ROOM, type Dropping } from "./bench-braid";
import { useBenchKeys } from "./use-bench-keys";

/** Before anything was run: tonight's braid, to drop faults on. */
export function PlannedNight({
  date,
  shown,
  armed,
  onDrop,
  onStart,
}: Dropping & { date: string; shown: boolean; onStart: () => void }) {
  const { draft, units } = useWorkspace("draft", "units");
  const night = useNightOf(draft, date);
  const { box, width } = useWidth(900);
  const [waterline, setWaterline] = useState<number | null>(null);
  const data = useMemo(
    () => (night ? braidOf(draft, night.plan.runs, night.moments, date) : null),
    [night, draft, date],
  );
  const pxPerMinute = usePxPerMinute(data, BENCH_ROOM);
  useBenchKeys(shown, onStart, () => {});
  return (
    <div ref={box} className="min-w-0 overflow-x-auto">
      {!night && <p role="status">Working out the night…</p>}
      {night && !data && <p>Nothing runs on this date; choose another.</p>}
      {data && (
        <Braid
          site={draft}
          data={data}
          units={units}
          width={width}
          pxPerMinute={pxPerMinute}
          noEarlierThan={null}
          selected={null}
          onSelect={(on) => armed && onDrop(armed, on)}
          waterline={waterline ?? data.from}
          onWaterline={setWaterline}
        />
      )}
    </div>
  );
}
