"use client";
import dynamic from "next/dynamic";
import { NightStepper } from "@/components/frame/night-stepper";
import { ScreenBar } from "@/components/frame/screen-bar";
import { useNightDate } from "@/components/frame/use-night-date";
import { oneOf, useScreenParam } from "@/components/frame/use-screen-param";
import { NightPanel } from "./night-panel";

const SweepPanel = dynamic(() => import("./sweep-panel").then((m) => m.SweepPanel));
const DrillPanel = dynamic(() => import("./drill-panel").then((m) => m.DrillPanel));
const LivePanel = dynamic(() => import("./live-panel").then((m) => m.LivePanel));

type View = "night" | "sweep" | "drill" | "live";
const VIEWS = [
  { id: "night", label: "One night" },
  { id: "sweep", label: "Fault sweep" },
  { id: "drill", label: "Drill" },
  { id: "live", label: "Live" },
] as const;
const isView = oneOf(VIEWS);

/** Rehearse: one night with faults, every fault on every station, one hidden fault to find; and the site as its gateway reads it now. */
export function BenchScreen() {
  const [date, setDate] = useNightDate();
  const [view, setView] = useScreenParam<View>("view", "night", { fits: isView });
  return (
    <>
      <ScreenBar
        title="Bench"
        views={VIEWS}
        at={view}
        onView={setView}
        tools={view === "live" ? undefined : <NightStepper date={date} onDate={setDate} />}
      />
      {/* The run stays while one looks at another view. */}
      <div hidden={view !== "night"}>
        <NightPanel date={date} shown={view === "night"} />
      </div>
      {view === "sweep" && <SweepPanel date={date} />}
      {view === "drill" && <DrillPanel date={date} />}
      {view === "live" && <LivePanel />}
    </>
  );
}
