"use client";
import { Plus } from "lucide-react";
import dynamic from "next/dynamic";
import { useEffect } from "react";
import { useNight, useWorkspace } from "@/components/draft/site-draft";
import { usePressures } from "@/components/draft/use-pressures";
import { ScreenBar } from "@/components/frame/screen-bar";
import { oneOf, useScreenParam } from "@/components/frame/use-screen-param";
import { Button } from "@/components/kit/button";
import { WithInspector } from "@/components/kit/inspector";
import { Menu } from "@/components/kit/menu";
import type { SiteFile } from "@/core/site-file/schema";
import { addController, addMainline, addPoc, addSource } from "../../draft/waterworks-edits";
import { Ledger } from "./ledger";

const FlowDrawing = dynamic(() => import("../../pictures/drawing/flow-drawing").then((m) => m.FlowDrawing), {
  ssr: false,
  loading: () => <p className="text-faint">Drawing…</p>,
});
const PlanPanel = dynamic(() => import("./plan-panel").then((m) => m.PlanPanel), { ssr: false });
const DevicesPanel = dynamic(() => import("./devices-panel").then((m) => m.DevicesPanel));
const PressurePanel = dynamic(() => import("./pressure-panel").then((m) => m.PressurePanel));
const PipeChart = dynamic(() => import("../../pictures/drawing/pipe-chart").then((m) => m.PipeChart));
const ExchangePanel = dynamic(() => import("./exchange-panel").then((m) => m.ExchangePanel));

const VIEWS = [
  { id: "drawing", label: "Drawing" },
  { id: "plan", label: "Plan" },
  { id: "devices", label: "Devices and wires" },
  { id: "pressure", label: "Pressure" },
  { id: "pipes", label: "Pipe chart" },
  { id: "exchange", label: "Exchange" },
] as const;
const isView = oneOf(VIEWS);
type View = (typeof VIEWS)[number]["id"];

/** The first step of the work: what feeds what, the pieces on it, and what each may carry. */
export function WaterworksScreen() {
  const { draft, edit, canEdit, date } = useWorkspace("draft", "edit", "canEdit", "date");
  const night = useNight();
  const pressures = usePressures(draft, date);
  const [at, setAt] = useScreenParam<string>("at", "", { add: false });
  const [view, setView] = useScreenParam<View>("view", "drawing", { fits: isView });
  const selected = at === "" ? null : at;
  const setSelected = (id: string | null): void => setAt(id ?? "");
  const binding = night?.summary.binding;
  const bindingId = binding ? (binding.deviceId ?? binding.elementId) : null;
  useEffect(() => {
    if (window.location.hash !== "#binding" || !bindingId) return;
    window.history.replaceState(null, "", `${window.location.pathname}?at=${encodeURIComponent(bindingId)}`);
  }, [bindingId]);
  const show = (id: string): void => {
    setView("drawing");
    setSelected(id);
  };
  const add = (make: (file: SiteFile) => { file: SiteFile; id: string }): void => {
    const made = make(draft);
    edit(() => made.file);
    show(made.id);
  };
  const empty = draft.sources.length + draft.pocs.length + draft.mainlines.length === 0;
  const pieces = [
    ["Source", addSource],
    ["Point of connection", addPoc],
    ["Mainline", addMainline],
    ["Controller", addController],
  ] as const;
  return (
    <>
      <ScreenBar
        title="Waterworks"
        views={VIEWS}
        at={view}
        onView={setView}
        tools={
          canEdit && (
            <Menu label="Add" icon={Plus} end>
              {(close) =>
                pieces.map(([name, make]) => (
                  <Button
                    key={name}
                    rank="quiet"
                    icon={Plus}
                    className="justify-start"
                    onClick={() => {
                      close();
                      add(make);
                    }}
                  >
                    {name}
                  </Button>
                ))
              }
            </Menu>
          )
        }
      />
      {view === "drawing" && (
        <WithInspector
          label="Ledger"
          inspector={<Ledger selected={selected} onSelect={setSelected} pressures={pressures} />}
        >
          <section aria-label="Drawing">
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
        </WithInspector>
      )}
      {view === "plan" && <PlanPanel selected={selected} onSelect={setSelected} onOpen={show} />}
      {view === "devices" && <DevicesPanel onShow={show} />}
      {view === "pressure" && <PressurePanel found={pressures} onSelect={show} />}
      {view === "pipes" && <PipeChart />}
      {view === "exchange" && <ExchangePanel onDone={() => setView("drawing")} />}
    </>
  );
}
