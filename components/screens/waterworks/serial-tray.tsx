"use client";
import { X } from "lucide-react";
import { TextArea } from "@/components/kit/inputs";
import { Button, IconButton } from "@/components/kit/button";
import { Mark } from "@/components/kit/notice";
import { useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { scanSerials, type Scan } from "@/core/wiring/addresses";
import { addToTray, takeFromTray } from "../../draft/wiring-edits";

export const SERIAL_TYPE = "application/x-presa-serial";
export const REFUSED: Record<Scan["refused"][number]["code"], string> = {
  taken: "is in use already on",
  twice: "is in the tray already, or listed twice",
  notASerial: "is no serial number",
};

/** Serial numbers that drive nothing yet. */
export function Tray({ carried, onCarry }: { carried: string | null; onCarry: (serial: string | null) => void }) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const [text, setText] = useState("");
  const [refused, setRefused] = useState<Scan["refused"]>([]);
  const tray = draft.tray ?? [];
  const scan = (): void => {
    const found = scanSerials(draft, text);
    if (found.serials.length > 0) edit(addToTray(found.serials));
    setRefused(found.refused);
    setText(found.refused.map((r) => r.text).join("\n"));
  };
  return (
    <section aria-label="Tray" className="mb-4">
      <h3 className="text-lg border-b-2 border-base-content">Tray: {tray.length} not assigned</h3>
      {canEdit && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            scan();
          }}
        >
          <label htmlFor="scan" className="block text-sm text-faint mt-1">
            Paste or scan serial numbers, one after another
          </label>
          <TextArea id="scan" rows={3} value={text} onChange={(e) => setText(e.target.value)} />
          <Button type="submit" className="mt-1" disabled={text.trim() === ""}>
            Into the tray
          </Button>
        </form>
      )}
      {refused.length > 0 && (
        <ul role="alert" className="text-sm text-error my-1">
          {refused.map((r, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
            <li key={`${r.text}-${i}`}>
              <Mark tone="alarm" /> {r.text} {REFUSED[r.code]}
              {r.by ? ` ${r.by}` : ""}
            </li>
          ))}
        </ul>
      )}
      <ul className="flex flex-wrap gap-1 mt-2" aria-label="Serial numbers in the tray">
        {tray.map((d) => (
          <li key={d.serial} className="inline-flex">
            <Button
              rank={carried === d.serial ? "main" : "plain"}
              draggable={canEdit}
              disabled={!canEdit}
              aria-pressed={carried === d.serial}
              onDragStart={(e) => {
                e.dataTransfer.setData(SERIAL_TYPE, d.serial);
                e.dataTransfer.effectAllowed = "move";
              }}
              onClick={() => onCarry(carried === d.serial ? null : d.serial)}
            >
              {d.serial}
            </Button>
            {canEdit && (
              <IconButton
                label={`Take ${d.serial} out of the tray`}
                icon={X}
                onClick={() => {
                  edit(takeFromTray(d.serial));
                  if (carried === d.serial) onCarry(null);
                }}
              />
            )}
          </li>
        ))}
      </ul>
      {tray.length > 0 && (
        <p className="text-sm text-faint mt-1">Drag one onto a row, or press it and then Assign in the row.</p>
      )}
    </section>
  );
}
