"use client";
import { LockOpen } from "lucide-react";
import { useId, useState } from "react";
import { Button } from "@/components/kit/button";
import { Labelled, TickField } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import type { Alarm, ClearManyRequest } from "@/contracts/alarms";
import type { ManyAsked } from "@/contracts/controllers";

/** The most that are cleared at once. */
const MOST = 50;

/** Alarms that are ticked, cleared with the one cause that they have. */
export function ClearTogether({
  alarms,
  clear,
  onDone,
}: {
  alarms: Alarm[];
  clear: (asked: ClearManyRequest) => Promise<ManyAsked>;
  onDone: () => void;
}) {
  const id = useId();
  const [cause, setCause] = useState("");
  const [repaired, setRepaired] = useState(true);
  const [busy, setBusy] = useState(false);
  const [not, setNot] = useState<string[]>([]);
  const sites = new Set(alarms.map((a) => a.siteId)).size;
  const relearn = alarms.some((a) => a.kind === "stationHigh" || a.kind === "stationLow");
  const send = async (): Promise<void> => {
    setBusy(true);
    try {
      const asked = alarms.map((a) => ({ siteId: a.siteId, alarmId: a.id }));
      const answer = await clear({ alarms: asked, cause: cause.trim(), repaired: relearn && repaired });
      if (answer.not.length === 0) onDone();
      setNot(answer.not);
    } catch (error) {
      setNot([error instanceof Error ? error.message : String(error)]);
    } finally {
      setBusy(false);
    }
  };
  return (
    <form
      className="no-print sticky top-24 z-10 mb-2 flex max-w-5xl flex-wrap items-end gap-2 border border-base-content bg-base-100 p-2"
      aria-label="Clear together"
      onSubmit={(e) => {
        e.preventDefault();
        void send();
      }}
    >
      <span className="self-center">
        {alarms.length} ticked{sites > 1 && ` on ${sites} sites`}
      </span>
      <Labelled id={`${id}-cause`} label="Their cause, as found" className="min-w-48 grow">
        <Input id={`${id}-cause`} value={cause} maxLength={1000} onChange={(e) => setCause(e.target.value)} />
      </Labelled>
      {relearn && <TickField label="repaired: learn their flows again" checked={repaired} onCommit={setRepaired} />}
      <Button type="submit" icon={LockOpen} disabled={busy || cause.trim().length < 3 || alarms.length > MOST}>
        Clear {alarms.length > MOST ? `at most ${MOST} at once` : alarms.length}
      </Button>
      <Button rank="quiet" onClick={onDone}>
        Tick none
      </Button>
      {[...new Set(not)].map((n) => (
        <Problem key={n}>{n}</Problem>
      ))}
    </form>
  );
}
