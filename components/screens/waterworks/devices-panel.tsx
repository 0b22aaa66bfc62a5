"use client";
import { Scroller } from "@/components/kit/scroller";
import { ThresholdForm } from "./threshold-form";
import { SERIAL_TYPE, Tray } from "./serial-tray";
import { patchController } from "@/components/draft/patch-element";
import { Plus } from "lucide-react";
import { Input } from "@/components/kit/inputs";
import { Button } from "@/components/kit/button";
import { Table } from "@/components/kit/table";
import { Caution, Mark } from "@/components/kit/notice";
import { useState } from "react";
import { TextField } from "@/components/kit/fields";
import { useWorkspace } from "@/components/draft/site-draft";
import type { Controller, SiteFile } from "@/core/site-file/schema";
import { type Wired, wiredThings } from "@/core/wiring/addresses";
import { controllerLoad } from "@/core/wiring/load";
import { wireState } from "@/core/wiring/wire-reading";
import { DEVICE_WORDS, loadWords } from "../../words/rule-words";
import { WiredEditor } from "./wired-editor";
import { addWirePath, assign, coilOf, type Refusal, removeWirePath } from "../../draft/wiring-edits";

/** Every valve and device by controller and wire path; serial numbers pasted or scanned wait in the tray until they are assigned. */
export function DevicesPanel({ onShow }: { onShow: (id: string) => void }) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const [open, setOpen] = useState<string | null>(null);
  const [carried, setCarried] = useState<string | null>(null);
  const [refused, setRefused] = useState<Refusal | null>(null);
  const [find, setFind] = useState("");
  const things = wiredThings(draft).filter(
    (t) => find === "" || `${t.label} ${t.serial ?? ""} ${t.address ?? ""}`.toLowerCase().includes(find.toLowerCase()),
  );
  const drop = (thing: Wired, serial: string): void => {
    const outcome = assign(draft, thing.id, serial);
    if (outcome.ok) {
      edit(() => outcome.file);
      setCarried(null);
      setRefused(null);
    } else setRefused(outcome.refusal);
  };
  const loose = things.filter((t) => t.controllerId === null);
  return (
    <section aria-label="Devices and wires" className="grid lg:grid-cols-[17rem_minmax(0,1fr)] gap-6 mt-2">
      <div>
        <Tray carried={carried} onCarry={setCarried} />
        <ThresholdForm />
        <Caution>
          Line-voltage and pump wiring: licensed electrician; power off and locked before opening an enclosure. Valve
          boxes and vaults: gas, insects, confined-space rules; locate buried services before digging.
        </Caution>
      </div>
      <div className="min-w-0">
        <label className="block w-64 mb-2">
          <span className="block text-sm text-faint">Find by name, address or serial number</span>
          <Input data-find value={find} onChange={(e) => setFind(e.target.value)} />
        </label>
        {refused && (
          <p role="alert" className="text-error font-semibold my-1">
            <Mark tone="alarm" /> {refused.words} Nothing was changed.{" "}
            <Button rank="quiet" onClick={() => setRefused(null)}>
              Dismiss
            </Button>
          </p>
        )}
        {carried && (
          <p className="my-1">
            Carrying <strong>{carried}</strong>: drop it on a row, or press Assign there.{" "}
            <Button rank="quiet" onClick={() => setCarried(null)}>
              Put back
            </Button>
          </p>
        )}
        {draft.controllers.length === 0 && (
          <p className="max-w-prose">
            No controller yet. Add one with + Controller; its stations are then listed here by wire path.
          </p>
        )}
        {draft.controllers.map((c) => (
          <ControllerWires
            key={c.id}
            controller={c}
            things={things.filter((t) => t.controllerId === c.id)}
            open={open}
            onOpen={setOpen}
            carried={carried}
            onDrop={drop}
            onShow={onShow}
            onRefused={setRefused}
          />
        ))}
        {loose.length > 0 && (
          <>
            <h3 className="text-lg border-b-2 border-base-content mt-4">Not on a controller yet</h3>
            <Rows
              things={loose}
              open={open}
              onOpen={setOpen}
              carried={carried}
              onDrop={drop}
              onShow={onShow}
              onRefused={setRefused}
            />
          </>
        )}
        {canEdit && things.length === 0 && draft.controllers.length > 0 && (
          <p className="text-faint">Nothing matches.</p>
        )}
      </div>
    </section>
  );
}

type RowsProps = {
  things: Wired[];
  open: string | null;
  onOpen: (id: string | null) => void;
  carried: string | null;
  onDrop: (thing: Wired, serial: string) => void;
  onShow: (id: string) => void;
  onRefused: (r: Refusal | null) => void;
};

function ControllerWires({ controller, things, ...rest }: RowsProps & { controller: Controller }) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const load = controllerLoad(draft, controller);
  const paths = controller.wirePaths ?? [];
  const over = load.budgetMa !== null && load.totalMa > load.budgetMa;
  const groups: { id: string | null; title: string; list: Wired[] }[] = [
    ...paths.map((w) => ({
      id: w.id as string | null,
      title: `${w.name}: ${w.kind === "twoWire" ? "decoders on two wires" : "terminals"}`,
      list: things.filter((t) => t.wirePathId === w.id),
    })),
    {
      id: null,
      title: paths.length > 0 ? "On no wire path" : "Terminals",
      list: things.filter((t) => t.wirePathId === null),
    },
  ];
  return (
    <div className="mb-6">
      <div className="flex flex-wrap items-baseline gap-x-4 border-b-2 border-base-content">
        <h3 className="text-lg">{controller.name}</h3>
        <span className="text-faint">{controller.powered === "battery" ? "battery, latching DC" : "24 V AC"}</span>
        <span className={`text-sm ${over ? "text-error font-semibold" : ""}`}>{loadWords(load)}</span>
        <span className="grow" />
        {canEdit && (
          <Button icon={Plus} rank="quiet" onClick={() => edit((f) => addWirePath(f, controller.id, "twoWire"))}>
            two-wire path
          </Button>
        )}
        {canEdit && (
          <Button icon={Plus} rank="quiet" onClick={() => edit((f) => addWirePath(f, controller.id, "terminals"))}>
            terminal strip
          </Button>
        )}
      </div>
      {groups.map((g) =>
        g.id === null && g.list.length === 0 ? null : (
          <div key={g.id ?? "none"} className="mt-2">
            <div className="flex flex-wrap items-end gap-3">
              <h4 className="font-semibold">{g.title}</h4>
              {g.id !== null && canEdit && (
                <>
                  <div className="w-44">
                    <TextField
                      hideLabel
                      label={`Name of wire path ${g.title}`}
                      value={paths.find((w) => w.id === g.id)?.name ?? ""}
                      onCommit={(v) =>
                        edit(
                          patchController(controller.id, {
                            wirePaths: paths.map((w) => (w.id === g.id ? { ...w, name: v.trim() || w.name } : w)),
                          }),
                        )
                      }
                    />
                  </div>
                  <Button
                    rank="quiet"
                    disabled={g.list.length > 0}
                    title={g.list.length > 0 ? "First move what is on it" : undefined}
                    onClick={() => edit((f) => removeWirePath(f, controller.id, g.id as string))}
                  >
                    Delete path
                  </Button>
                </>
              )}
            </div>
            {g.list.length === 0 ? (
              <p className="text-sm text-faint">Nothing on it yet: open a row below and choose this path.</p>
            ) : (
              <Rows things={g.list} {...rest} />
            )}
          </div>
        ),
      )}
    </div>
  );
}

function Rows({ things, open, onOpen, carried, onDrop, onShow, onRefused }: RowsProps) {
  const { draft, canEdit } = useWorkspace("draft", "canEdit");
  return (
    <Scroller>
      <Table>
        <thead>
          <tr>
            <th>Valve or device</th>
            <th>Kind</th>
            <th>Address</th>
            <th>Serial number</th>
            <th>Coil</th>
            <th>Resistance</th>
            <th>
              <span className="sr-only">Do</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {things.map((t) => (
            <WiredRow
              key={t.id}
              thing={t}
              site={draft}
              canEdit={canEdit}
              opened={open === t.id}
              onOpen={() => onOpen(open === t.id ? null : t.id)}
              carried={carried}
              onDrop={onDrop}
              onShow={onShow}
              onRefused={onRefused}
            />
          ))}
        </tbody>
      </Table>
    </Scroller>
  );
}

const COILS = { ac24: "24 V AC", dcLatching: "latching" };

function WiredRow({
  thing,
  site,
  canEdit,
  opened,
  onOpen,
  carried,
  onDrop,
  onShow,
  onRefused,
}: {
  thing: Wired;
  site: SiteFile;
  canEdit: boolean;
  opened: boolean;
  onOpen: () => void;
  carried: string | null;
  onDrop: (thing: Wired, serial: string) => void;
  onShow: (id: string) => void;
  onRefused: (r: Refusal | null) => void;
}) {
  const [over, setOver] = useState(false);
  const state = wireState(site, thing.id, coilOf(site, thing));
  const MEANING = { short: "short", good: "good", high: "high", open: "open circuit" } as const;
  return (
    <>
      <tr
        data-wired={thing.id}
        className={over ? "outline-2 outline-primary" : ""}
        onDragOver={(e) => {
          if (e.dataTransfer.types.includes(SERIAL_TYPE)) {
            e.preventDefault();
            setOver(true);
          }
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          setOver(false);
          const serial = e.dataTransfer.getData(SERIAL_TYPE);
          if (serial) {
            e.preventDefault();
            onDrop(thing, serial);
          }
        }}
      >
        <td>
          <Button
            rank="bare"
            aria-expanded={opened}
            className="underline underline-offset-2 cursor-pointer text-left"
            onClick={onOpen}
          >
            {thing.label}
          </Button>
        </td>
        <td className="text-faint">{thing.kind === "station" ? "station" : DEVICE_WORDS[thing.kind]}</td>
        <td>{thing.address ?? "–"}</td>
        <td>{thing.serial ?? "–"}</td>
        <td>{thing.coil === null ? "–" : COILS[thing.coil]}</td>
        <td className={state && (state.meaning !== "good" || state.runHigh) ? "text-warning font-semibold" : ""}>
          {state
            ? `${state.controllerOhm ?? state.coilOhm} Ω, ${MEANING[state.meaning]}${state.runHigh ? `; run ${Math.round(state.runOhm ?? 0)} Ω ` : ""}`
            : "–"}
        </td>
        <td className="text-right whitespace-nowrap">
          {carried && canEdit && (
            <Button
              rank="main"
              aria-label={`Assign ${carried} to ${thing.label}`}
              onClick={() => onDrop(thing, carried)}
            >
              Assign
            </Button>
          )}
          <Button rank="quiet" aria-label={`Show ${thing.label} on the drawing`} onClick={() => onShow(thing.id)}>
            Show
          </Button>
        </td>
      </tr>
      {opened && (
        <tr>
          <td colSpan={7}>
            <WiredEditor thing={thing} onRefused={onRefused} />
          </td>
        </tr>
      )}
    </>
  );
}
