"use client";
import { useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { replaceDevice } from "@/components/draft/waterworks-edits";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { TextField } from "@/components/kit/fields";
import { Mark } from "@/components/kit/notice";
import { latestCheck, ON_THE_SPOT, withCheck } from "@/core/site-file/device-checks";
import type { Device } from "@/core/site-file/schema";

/** Whether someone stood before a device and found it as drawn: who, when, and what was otherwise. */
export function SpotCheck({ device }: { device: Device }) {
  const { edit, canEdit, userName } = useWorkspace("edit", "canEdit", "userName");
  const { dateAt } = useConventions();
  const [note, setNote] = useState("");
  const last = latestCheck(device, ON_THE_SPOT);
  const mark = (ok: boolean): void => {
    const made = { check: ON_THE_SPOT, ok, by: userName, at: new Date().toISOString(), note };
    edit(replaceDevice(device.id, (d) => withCheck(d, made)));
    setNote("");
  };
  return (
    <section aria-label="On the spot" className="mt-3 border-t border-base-300 pt-2">
      <p>
        <span className="text-faint">On the spot: </span>
        {!last && "not looked at yet"}
        {last?.ok && "as drawn"}
        {last && !last.ok && <Mark tone="caution">not as drawn</Mark>}
        {last && (
          <span className="text-faint">
            , {last.by}, {dateAt(last.at)}
          </span>
        )}
        {last?.note && `: ${last.note}`}
      </p>
      {canEdit && (
        <div className="mt-1 flex flex-wrap items-end gap-2">
          <TextField className="min-w-0 grow" label="Note" value={note} onCommit={setNote} />
          <Button onClick={() => mark(true)}>As drawn</Button>
          <Button onClick={() => mark(false)}>Not so</Button>
        </div>
      )}
    </section>
  );
}
