"use client";
import { useConventions } from "@/components/kit/conventions";
import { Button } from "@/components/kit/button";
import { Table } from "@/components/kit/table";
import { useState } from "react";
import { ChoiceField, NumberField, TextField } from "@/components/kit/fields";
import { useWorkspace } from "@/components/draft/site-draft";
import type { Wired } from "@/core/wiring/addresses";
import { TYPICAL_MA } from "@/core/wiring/load";
import { readingMeaning, thresholds } from "@/core/wiring/wire-reading";
import { addReading, addToTray, coilOf, type Refusal, setWired, type WiredValues } from "../../draft/wiring-edits";

const MEANING = {
  short: "short: coil or wire",
  good: "good",
  high: "too high: splice or thin wire",
  open: "open circuit: cut wire, splice or burnt coil",
} as const;

/** Where one valve or device hangs, what it draws, and every resistance read on it. */
export function WiredEditor({ thing, onRefused }: { thing: Wired; onRefused: (r: Refusal | null) => void }) {
  const { draft, edit, canEdit, userName } = useWorkspace("draft", "edit", "canEdit", "userName");
  const { dateAt } = useConventions();
  const [where, setWhere] = useState<"coil" | "controller">("controller");
  const [ohm, setOhm] = useState<number | undefined>(undefined);
  const [note, setNote] = useState("");
  const controller = draft.controllers.find((c) => c.id === thing.controllerId);
  const paths = controller?.wirePaths ?? [];
  const path = paths.find((w) => w.id === thing.wirePathId);
  const solenoid = thing.kind === "station" || thing.kind === "masterValve";
  const ma = thing.kind === "station" ? draft.stations.find((s) => s.id === thing.id)?.solenoidMa : undefined;
  const coil = coilOf(draft, thing);
  const set = (values: WiredValues): void => {
    const outcome = setWired(draft, thing.id, values);
    onRefused(outcome.ok ? null : outcome.refusal);
    if (outcome.ok) edit(() => outcome.file);
  };
  const readings = (draft.wireReadings ?? []).filter((r) => r.subjectId === thing.id);
  return (
    <div className="py-2 pl-3 border-l-4 border-base-content grid md:grid-cols-2 gap-6">
      <div className="grid grid-cols-2 gap-2 content-start">
        {thing.kind !== "station" && (
          <ChoiceField
            label="Controller"
            value={thing.controllerId ?? ""}
            disabled={!canEdit}
            options={[["", "none"], ...draft.controllers.map((c) => [c.id, c.name] as const)]}
            onCommit={(v) => set({ controllerId: v === "" ? undefined : v, wirePathId: undefined })}
          />
        )}
        <ChoiceField
          label="Wire path"
          value={thing.wirePathId ?? ""}
          disabled={!canEdit || paths.length === 0}
          hint={paths.length === 0 ? "the controller has none yet" : undefined}
          options={[["", "none"], ...paths.map((w) => [w.id, w.name] as const)]}
          onCommit={(v) =>
            set({
              wirePathId: v === "" ? undefined : v,
              ...(thing.kind !== "station" && controller ? { controllerId: controller.id } : {}),
            })
          }
        />
        <TextField
          label={path?.kind === "twoWire" ? "Output of its decoder" : "Terminal"}
          value={thing.address ?? ""}
          disabled={!canEdit}
          onCommit={(v) => set({ address: v.trim() || undefined })}
        />
        <TextField
          label="Serial number"
          value={thing.serial ?? ""}
          disabled={!canEdit}
          onCommit={(v) => set({ serial: v.trim() || undefined })}
        />
        {solenoid && (
          <ChoiceField
            label="Coil"
            value={thing.coil ?? ""}
            disabled={!canEdit}
            options={[
              ["", "not recorded"],
              ["ac24", "24 V AC"],
              ["dcLatching", "latching DC"],
            ]}
            onCommit={(v) => set({ coil: v === "" ? undefined : (v as "ac24") })}
          />
        )}
        {thing.kind === "station" && (
          <NumberField
            label="Holding current"
            unit="mA"
            value={ma}
            min={0}
            max={100_000}
            placeholder={`${TYPICAL_MA.solenoid}, typical`}
            disabled={!canEdit}
            onCommit={(v) => set({ solenoidMa: v })}
          />
        )}
        {thing.serial && canEdit && (
          <Button
            className="col-span-2 justify-self-start"
            onClick={() => {
              const serial = thing.serial as string;
              edit((f) => {
                const out = setWired(f, thing.id, { serial: undefined });
                return out.ok ? addToTray([serial])(out.file) : f;
              });
            }}
          >
            Take {thing.serial} off, back into the tray
          </Button>
        )}
      </div>
      <div>
        <h5 className="font-semibold">Resistance</h5>
        {readings.length > 0 && (
          <Table>
            <tbody>
              {readings.map((r) => {
                const m = readingMeaning(r.ohm, coil, thresholds(draft));
                return (
                  <tr key={r.id}>
                    <td>{dateAt(r.at)}</td>
                    <td>{r.by}</td>
                    <td>{(r.where ?? "controller") === "coil" ? "at the coil" : "at the controller"}</td>
                    <td className="text-right">{r.ohm} Ω</td>
                    <td className={m === "good" ? "" : "text-warning font-semibold"}>{MEANING[m]}</td>
                    <td className="text-faint">{r.note}</td>
                  </tr>
                );
              })}
            </tbody>
          </Table>
        )}
        {canEdit && (
          <form
            className="flex flex-wrap items-end gap-2 mt-1"
            onSubmit={(e) => {
              e.preventDefault();
              if (ohm === undefined) return;
              edit(
                addReading(
                  { subjectId: thing.id, where, ohm, ...(note.trim() ? { note: note.trim() } : {}) },
                  userName,
                  new Date().toISOString(),
                ),
              );
              setOhm(undefined);
              setNote("");
            }}
          >
            <div className="w-36">
              <ChoiceField
                label="Read"
                value={where}
                options={[
                  ["controller", "at the controller"],
                  ["coil", "at the coil"],
                ]}
                onCommit={setWhere}
              />
            </div>
            <div className="w-24">
              <NumberField label="Reading" unit="Ω" value={ohm} min={0} max={1e9} onCommit={setOhm} />
            </div>
            <div className="w-40">
              <TextField label="Note" value={note} onCommit={setNote} />
            </div>
            <Button type="submit">Note it</Button>
            {ohm !== undefined && <span>{MEANING[readingMeaning(ohm, coil, thresholds(draft))]}</span>}
          </form>
        )}
      </div>
    </div>
  );
}
