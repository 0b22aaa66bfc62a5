"use client";
import { RefreshCw } from "lucide-react";
import dynamic from "next/dynamic";
import { useEffect } from "react";
import { useControllers } from "@/components/data/use-controllers";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import { useSiteLog } from "@/components/draft/site-log";
import { ScreenBar } from "@/components/frame/screen-bar";
import { oneOf, useScreenParam } from "@/components/frame/use-screen-param";
import { Button } from "@/components/kit/button";
import { Problem } from "@/components/kit/notice";
import { HistoryPanel } from "./history-panel";
import { SendButton } from "./send-button";
import { SettingsPanel } from "./settings-panel";
import { OtherEnd } from "./other-end";

const RunPanel = dynamic(() => import("./run-panel").then((m) => m.RunPanel));
const ValveCheckPanel = dynamic(() => import("./valve-check/valve-check-panel").then((m) => m.ValveCheckPanel));
const SitePanel = dynamic(() => import("./site-panel").then((m) => m.SitePanel));

const VIEWS = [
  { id: "settings", label: "Send and read back" },
  { id: "run", label: "Run now" },
  { id: "live", label: "Live" },
  { id: "valves", label: "Valve check" },
  { id: "history", label: "History" },
] as const;
type View = (typeof VIEWS)[number]["id"];
const isView = oneOf(VIEWS);

/** The controllers at the other end: what they hold against what Presa holds, what is sent and asked of them, and the site live. */
export function ControllersScreen() {
  const { siteId, version, canEdit } = useWorkspace("siteId", "version", "canEdit");
  const unsaved = useChanges().length > 0;
  const [view, setView] = useScreenParam<View>("view", "settings", { fits: isView });
  const there = useControllers(siteId, version);
  const { status } = there;
  const { setLog } = useSiteLog();
  const open = status?.controllers.flatMap((c) => c.read?.differences.filter((d) => !d.noted) ?? []).length ?? 0;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the setter is anew at each change of what it sets
  useEffect(() => {
    if (status?.speaks !== "orders") return;
    const read = status.controllers.flatMap((c) => (c.read ? [c.read.at] : []));
    setLog({
      there: {
        read: read.length,
        differs: open,
        oldestReadAt: [...read].sort()[0] ?? null,
        sending: status.controllers.some((c) => c.send?.state === "waiting" || c.send?.state === "sent"),
      },
    });
  }, [status, open]);
  const takes = status?.speaks === "orders";
  return (
    <>
      <ScreenBar
        title="Controllers"
        views={VIEWS.map((v) => (v.id === "settings" && takes ? { ...v, count: open } : v))}
        at={view}
        onView={setView}
        tools={
          takes &&
          canEdit && (
            <Button rank="quiet" icon={RefreshCw} disabled={there.busy} onClick={() => void there.readBack()}>
              Read back
            </Button>
          )
        }
        main={
          takes && canEdit && view === "settings" && <SendButton status={status} unsaved={unsaved} send={there.send} />
        }
      />
      {there.problem && <Problem className="mb-2">{there.problem}</Problem>}
      {!status && !there.problem && <p role="status">Asking…</p>}
      {status && <OtherEnd status={status} onSetUp={() => setView("live")} quiet={view === "live"} />}
      {status && view === "settings" && <SettingsPanel status={status} answer={there.answer} order={there.order} />}
      {status && view === "run" && <RunPanel status={status} order={there.order} />}
      {status && view === "valves" && <ValveCheckPanel status={status} order={there.order} />}
      {view === "live" && <SitePanel />}
      {status && view === "history" && <HistoryPanel status={status} />}
    </>
  );
}
