"use client";
import { Select } from "@/components/kit/inputs";
import { Button } from "@/components/kit/button";
import { useId, useState } from "react";
import { useLibrary } from "@/components/data/use-library";
import { useWorkspace } from "@/components/draft/site-draft";
import { bodyOf, withBody } from "@/core/library/library-item";
import { TYPICAL, TYPICAL_NOTE } from "@/core/library/typical";
import type { Device } from "@/core/site-file/schema";
import { replaceDevice } from "../../draft/waterworks-edits";
import { DEVICE_WORDS } from "../../words/rule-words";

/** Takes a device's data sheet from the organisation's library or the typical one, or keeps this one there. */
export function LibraryPicker({ device }: { device: Device }) {
  const { edit, canEdit } = useWorkspace("edit", "canEdit");
  const { items, keep, problem } = useLibrary();
  const id = useId();
  const [said, setSaid] = useState<string | null>(null);
  const own = items.filter((i) => i.body.kind === device.kind);
  const typical = TYPICAL.filter((i) => i.body.kind === device.kind);
  const name = device.name ?? DEVICE_WORDS[device.kind] ?? device.kind;
  return (
    <div className="col-span-2 border-t border-base-300 pt-2 flex flex-wrap items-end gap-2">
      <div className="grow min-w-0">
        <label htmlFor={id} className="block text-sm text-faint">
          Take its data sheet from the library
        </label>
        <Select
          id={id}
          value=""
          disabled={!canEdit || own.length + typical.length === 0}
          onChange={(e) => {
            const item = [...own, ...typical].find((i) => i.name === e.target.value);
            if (!item) return;
            edit(replaceDevice(device.id, (d) => withBody(d, item)));
            setSaid(`Taken from ${item.name}${item.note ? `: ${item.note}` : ""}.`);
          }}
        >
          <option value="">{own.length + typical.length === 0 ? "nothing of this kind is kept yet" : "choose…"}</option>
          {own.length > 0 && (
            <optgroup label="Your organisation">
              {own.map((i) => (
                <option key={i.id} value={i.name}>
                  {i.name}
                </option>
              ))}
            </optgroup>
          )}
          {typical.length > 0 && (
            <optgroup label={`Generic: ${TYPICAL_NOTE}`}>
              {typical.map((i) => (
                <option key={i.name} value={i.name}>
                  {i.name}
                </option>
              ))}
            </optgroup>
          )}
        </Select>
      </div>
      {canEdit && (
        <Button
          onClick={async () =>
            setSaid((await keep(name, "", bodyOf(device))) ? `Kept as "${name}"; it can be taken on every site.` : null)
          }
        >
          Keep in library
        </Button>
      )}
      {(said ?? problem) && (
        <p role="status" className={`w-full text-sm ${problem && !said ? "text-error" : "text-faint"}`}>
          {said ?? problem}
        </p>
      )}
    </div>
  );
}
