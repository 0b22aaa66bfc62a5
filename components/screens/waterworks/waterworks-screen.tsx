"use client";
import { Button } from "@/components/kit/button";
import { useEffect, useState } from "react";
import { usePressures } from "@/components/draft/use-pressures";
import { useWorkspace } from "@/components/draft/workspace";
import type { SiteFile } from "@/core/site-file/schema";
import { DevicesPanel } from "./devices-panel";
import { addController, addMainline, addPoc, addSource } from "../../draft/waterworks-edits";
import { ExchangePanel } from "./exchange-panel";
import { FlowDrawing } from "../../pictures/drawing/flow-drawing";
import { Ledger } from "./ledger";
import { PipeChart } from "../../pictures/drawing/pipe-chart";
import { PressurePanel } from "./pressure-panel";

const VIEWS = {
  drawing: "Drawing",
  devices: "Devices and wires",
  pressure: "Pressure",
  pipes: "Pipe chart",
  exchange: "Exchange",
} as const;
type View = keyof typeof VIEWS;

/** The first step of the work: what feeds what, the pieces on it, and what each may carry. */
export function WaterworksScreen() {
  const { draft, edit, canEdit, night, date } = useWorkspace();
  const pressures = usePressures(draft, date);
  const [selected, setSelected] = useState<string | null>(null);
  const [view, setView] = useState<View>("drawing");
  const binding = night?.summary.binding;
  useEffect(() => {
    const jump = (): void => {
      const hash = window.location.hash.slice(1);
      if (hash === "binding" && binding) {
        setView("drawing");
        setSelected(binding.deviceId ?? binding.elementId);
      }
      if (hash in VIEWS) setView(hash as View);
    };
    jump();
    window.addEventListener("hashchange", jump);
    return () => window.removeEventListener("hashchange", jump);
  }, [binding]);
  const go = (to: View): void => {
    window.history.replaceState(null, "", to === "drawing" ? window.location.pathname : `#${to}`);
    setView(to);
  };
  const add = (make: (file: SiteFile) => { file: SiteFile; id: string }): void => {
    const made = make(draft);
    edit(() => made.file);
    setSelected(made.id);
    go("drawing");
  };
  const show = (id: string): void => {
    setSelected(id);
    go("drawing");
  };
  const empty = draft.sources.length + draft.pocs.length + draft.mainlines.length === 0;
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 mb-2">
        <h2 className="text-xl">Waterworks</h2>
        <nav aria-label="Views of the waterworks" className="flex flex-wrap gap-x-1">
          {(Object.entries(VIEWS) as [View, string][]).map(([key, words]) => (
            <Button
              rank="bare"
              key={key}
              aria-current={view === key ? "page" : undefined}
              onClick={() => go(key)}
              className={`px-2 min-h-[1.9rem] cursor-pointer border-b-[3px] hover:bg-base-200 ${view === key ? "border-base-content font-semibold" : "border-transparent"}`}
            >
              {words}
            </Button>
          ))}
        </nav>
        <span className="grow" />
        {canEdit && (
          <div className="flex flex-wrap gap-1">
            <Button onClick={() => add(addSource)}>+ Source</Button>
            <Button onClick={() => add(addPoc)}>+ Point of connection</Button>
            <Button onClick={() => add(addMainline)}>+ Mainline</Button>
            <Button onClick={() => add(addController)}>+ Controller</Button>
          </div>
        )}
      </div>
      {view === "drawing" && (
        <div className="grid xl:grid-cols-[minmax(0,1fr)_24rem] gap-6">
          <section aria-label="Drawing" className="min-w-0 xl:sticky xl:top-2 xl:self-start">
            {empty ? (
              <p className="max-w-prose my-4">
                A sketch first, always. Begin with the source: where the water comes from. Then the point of connection
                with its meter, backflow preventer, master valve and flow sensor, then the mainlines it feeds, then the
                controllers. Every ceiling, and the piece that binds it, appears as you enter it.
              </p>
            ) : (
              <FlowDrawing selected={selected} onSelect={setSelected} />
            )}
          </section>
          <section
            aria-label="Ledger"
            className="min-w-0 xl:max-h-[calc(100dvh-10rem)] xl:overflow-y-auto xl:pr-2"
            tabIndex={-1}
          >
            <Ledger selected={selected} onSelect={setSelected} pressures={pressures} />
          </section>
        </div>
      )}
      {view === "devices" && <DevicesPanel onShow={show} />}
      {view === "pressure" && <PressurePanel found={pressures} onSelect={show} />}
      {view === "pipes" && <PipeChart />}
      {view === "exchange" && <ExchangePanel onDone={() => go("drawing")} />}
    </>
  );
}
