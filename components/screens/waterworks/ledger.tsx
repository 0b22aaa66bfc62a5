"use client";
import { patchElement, patchStation } from "@/components/draft/patch-element";
import { Figure } from "@/components/draft/figure";
import { ArrowDown, ArrowUp, Layers, Plus, Trash2 } from "lucide-react";
import { Button, type Icon, IconButton } from "@/components/kit/button";
import { MasterValveIcon, MeterIcon } from "@/components/kit/icons";
import type { Patch } from "@/core/site-file/patch";
import { useEffect, useRef } from "react";
import type { Pressures } from "@/components/draft/use-pressures";
import { useWorkspace } from "@/components/draft/site-draft";
import { WordsFields } from "@/components/draft/words-fields";
import { ceilings, type ElementCeiling } from "@/core/ceilings/ceilings";
import { worstOf } from "@/core/hydraulics/worst-pressure";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { Device, Station } from "@/core/site-file/schema";
import { showQuantity } from "@/core/units/units";
import { Rules } from "./ceiling-rules";
import { standsOnTheSpot } from "@/core/site-file/device-checks";
import { DeviceForm } from "./device-form";
import { SpotCheck } from "./spot-check";
import { addDevice, addStandard, deletionBlocks, moveDevice, remove } from "../../draft/waterworks-edits";
import { ControllerForm } from "./controller-form";
import { MainlineForm, PocForm, SourceForm } from "./element-forms";
import { DEVICE_WORDS, RULE_WORDS } from "../../words/rule-words";

type Props = { selected: string | null; onSelect: (id: string | null) => void; pressures: Pressures };

/** Every element with its ceiling and what binds it; the selected one opened to all its rules and data. */
export function Ledger({ selected, onSelect, pressures }: Props) {
  const { draft, units } = useWorkspace("draft", "units");
  const figures = new Map(ceilings(draft).map((c) => [c.id, c]));
  const owner = (id: string | null): string | null =>
    id === null
      ? null
      : (draft.pocs.find((p) => p.id === id || p.devices.some((d) => d.id === id))?.id ??
        draft.mainlines.find(
          (m) => m.id === id || m.pipes.some((d) => d.id === id) || m.devices?.some((d) => d.id === id),
        )?.id ??
        id);
  const station = draft.stations.find((s) => s.id === selected);
  const open = owner(station ? station.mainlineId : selected);
  const groups: [string, { id: string; name: string }[]][] = [
    ["Sources", draft.sources],
    ["Points of connection", draft.pocs],
    ["Mainlines", draft.mainlines],
    ["Controllers", draft.controllers],
  ];
  return (
    <div>
      {station && <StationFacts key={station.id} station={station} />}
      {groups.map(
        ([title, items]) =>
          items.length > 0 && (
            <section key={title} className="mb-4">
              <h3 className="text-lg border-b-2 border-base-content">{title}</h3>
              {items.map((item) => {
                const c = figures.get(item.id);
                return (
                  <article key={item.id} className="border-b border-base-300">
                    <Button
                      rank="bare"
                      aria-expanded={open === item.id}
                      onClick={() => onSelect(open === item.id ? null : item.id)}
                      className="w-full flex flex-wrap justify-between gap-x-3 py-1.5 text-left hover:bg-base-200 cursor-pointer"
                    >
                      <strong>{item.name}</strong>
                      {c && (
                        <span>
                          {c.ceilingLpm === null ? (
                            <span className="text-faint">nothing limits it</span>
                          ) : (
                            <>
                              <strong>{showQuantity(c.ceilingLpm, "flow", units)}</strong>{" "}
                              <span className="text-faint">{RULE_WORDS[c.boundBy?.rule ?? ""]}</span>
                            </>
                          )}
                        </span>
                      )}
                    </Button>
                    {open === item.id && (
                      <Opened id={item.id} ceiling={c} selected={selected} onSelect={onSelect} pressures={pressures} />
                    )}
                  </article>
                );
              })}
            </section>
          ),
      )}
    </div>
  );
}

/** A station picked on the drawing: what of it belongs to the waterworks. */
function StationFacts({ station }: { station: Station }) {
  const { edit, units } = useWorkspace("edit", "units");
  const flow = expectedFlow(station);
  const put = (values: Patch<Station>): void => edit(patchStation(station.id, values));
  return (
    <section aria-label="Chosen station" className="mb-4 border-l-4 border-base-content pl-2">
      <h3 className="text-lg">
        {station.number} {station.name}
      </h3>
      <p className="text-sm">
        {flow ? `${showQuantity(flow.lpm, "flow", units)}, ${flow.from}` : "No flow figure."}
        {station.lockedOut ? " — LOCKED OUT" : ""}
      </p>
      <div className="grid grid-cols-2 gap-x-3 gap-y-2">
        <Figure
          of={station}
          at="elevationM"
          put={put}
          label="Level of its valve"
          quantity="length"
          min={-500}
          max={9000}
        />
        <Figure
          of={station}
          at="alongM"
          put={put}
          label="Along the main"
          quantity="length"
          hint="empty: spread evenly"
        />
        <Figure of={station} at="requiredKpa" put={put} label="Pressure it needs" quantity="pressure" />
      </div>
    </section>
  );
}

function Opened({
  id,
  ceiling,
  selected,
  onSelect,
  pressures,
}: Props & { id: string; ceiling: ElementCeiling | undefined }) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const box = useRef<HTMLDivElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: whenever another is selected
  useEffect(() => {
    (box.current?.querySelector("[data-chosen]") ?? box.current?.closest("article"))?.scrollIntoView({
      block: "nearest",
    });
  }, [selected]);
  const source = draft.sources.find((s) => s.id === id);
  const poc = draft.pocs.find((p) => p.id === id);
  const mainline = draft.mainlines.find((m) => m.id === id);
  const controller = draft.controllers.find((c) => c.id === id);
  const element = source ?? poc ?? mainline ?? controller;
  const blocks = deletionBlocks(draft, id);
  return (
    <div ref={box} className="pb-3 pl-2 border-l-4 border-base-content mb-2">
      {(poc || mainline) && (
        <Devices
          ownerId={id}
          devices={poc ? poc.devices : [...(mainline?.devices ?? []), ...(mainline?.pipes ?? [])]}
          kinds={poc ? POC_KINDS : MAIN_KINDS}
          selected={selected}
          onSelect={onSelect}
        />
      )}
      {ceiling && ceiling.rules.length > 0 && <Rules ceiling={ceiling} onSelect={onSelect} />}
      {mainline && <MainPressure mainlineId={id} pressures={pressures} onSelect={onSelect} />}
      {source && <SourceForm source={source} />}
      {poc && <PocForm poc={poc} />}
      {mainline && <MainlineForm mainline={mainline} />}
      {controller && <ControllerForm controller={controller} />}
      {element && <WordsFields of={element} put={(values) => edit(patchElement(id, values))} />}
      {canEdit && (
        <div className="mt-3">
          <Button
            disabled={blocks.length > 0}
            onClick={() => {
              edit(remove(id));
              onSelect(null);
            }}
          >
            Delete
          </Button>
          {blocks.length > 0 && (
            <span className="text-sm text-faint ml-2">
              First move or delete {blocks.slice(0, 2).join(", ")}
              {blocks.length > 2 ? ` and ${blocks.length - 2} more` : ""}.
            </span>
          )}
        </div>
      )}
    </div>
  );
}

/** Pressure under load is a rule too, judged by the network solver: the station on this main that is worst off. */
function MainPressure({
  mainlineId,
  pressures,
  onSelect,
}: {
  mainlineId: string;
  pressures: Pressures;
  onSelect: (id: string) => void;
}) {
  const { draft, units } = useWorkspace("draft", "units");
  const mine = new Map(draft.stations.filter((s) => s.mainlineId === mainlineId).map((s) => [s.id, s]));
  if (mine.size === 0) return null;
  if (pressures.state === "working")
    return (
      <p className="text-sm text-faint" role="status">
        Pressure under load: solving…
      </p>
    );
  if (pressures.state === "failed") return null;
  const together = worstOf((pressures.study.design?.stations ?? []).filter((s) => mine.has(s.stationId)));
  const worst = together ?? worstOf(pressures.study.alone.filter((s) => mine.has(s.stationId)));
  const station = worst ? mine.get(worst.stationId) : undefined;
  if (!worst || !station)
    return <p className="text-sm">Pressure under load: cannot be told; no source above states one.</p>;
  const show = (kPa: number): string => showQuantity(kPa, "pressure", units);
  return (
    <p className="text-sm my-1">
      Pressure under load, {together ? "everything up to the ceiling" : "alone"}: worst{" "}
      <Button
        rank="bare"
        className="underline underline-offset-2 cursor-pointer font-semibold"
        onClick={() => onSelect(station.id)}
      >
        {station.number} {station.name}
      </Button>
      , {show(worst.kPa)}
      {worst.requiredKpa !== null && (
        <>
          {" "}
          of {show(worst.requiredKpa)} required
          {(worst.marginKpa ?? 0) < 0 ? (
            <strong className="text-error">
              {" "}
              <ArrowDown className="inline size-[1em] align-[-0.12em]" aria-hidden /> short
            </strong>
          ) : (
            ""
          )}
        </>
      )}
      .
    </p>
  );
}

const POC_KINDS: Device["kind"][] = [
  "meter",
  "backflow",
  "masterValve",
  "pump",
  "pipe",
  "flowSensor",
  "pressureSensor",
  "regulator",
  "fixedLoss",
];
const PIECE_ICONS: Partial<Record<Device["kind"], Icon>> = { meter: MeterIcon, masterValve: MasterValveIcon };
const MAIN_KINDS: Device["kind"][] = ["pipe", "masterValve", "flowSensor", "pressureSensor", "regulator", "fixedLoss"];

function Devices({
  ownerId,
  devices,
  kinds,
  selected,
  onSelect,
}: {
  ownerId: string;
  devices: Device[];
  kinds: Device["kind"][];
  selected: string | null;
  onSelect: (id: string | null) => void;
}) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const add = (kind: Device["kind"]): void => {
    const made = addDevice(draft, ownerId, kind);
    edit(() => made.file);
    onSelect(made.id);
  };
  return (
    <div className="mb-3">
      <h4 className="font-semibold">Pieces in flow order</h4>
      {devices.map((d) => (
        <div key={d.id} className="border-t border-base-300" data-chosen={selected === d.id || undefined}>
          <div className="flex items-center gap-1">
            <Button
              rank="bare"
              aria-expanded={selected === d.id}
              className="grow text-left py-1 hover:bg-base-200 cursor-pointer"
              onClick={() => onSelect(selected === d.id ? ownerId : d.id)}
            >
              {d.name ?? DEVICE_WORDS[d.kind]}
              {d.kind === "pipe" ? (
                <span className="text-faint">
                  {" "}
                  {d.material} {d.series} {d.nominal}
                </span>
              ) : null}
            </Button>
            {canEdit && (
              <>
                <IconButton
                  label={`Move ${d.name ?? DEVICE_WORDS[d.kind]} up the flow`}
                  icon={ArrowUp}
                  onClick={() => edit(moveDevice(d.id, -1))}
                />
                <IconButton
                  label={`Move ${d.name ?? DEVICE_WORDS[d.kind]} down the flow`}
                  icon={ArrowDown}
                  onClick={() => edit(moveDevice(d.id, 1))}
                />
                <IconButton
                  label={`Delete ${d.name ?? DEVICE_WORDS[d.kind]}`}
                  icon={Trash2}
                  onClick={() => {
                    edit(remove(d.id));
                    onSelect(ownerId);
                  }}
                />
              </>
            )}
          </div>
          {selected === d.id && (
            <div className="py-2">
              <DeviceForm device={d} />
              {standsOnTheSpot(d) && <SpotCheck device={d} />}
            </div>
          )}
        </div>
      ))}
      {canEdit && devices.length === 0 && kinds === POC_KINDS && (
        <p className="my-1">
          <Button icon={Layers} onClick={() => edit((f) => addStandard(f, ownerId))}>
            Standard connection
          </Button>{" "}
          <span className="text-xs text-faint">lays meter, backflow preventer, master valve and flow sensor</span>
        </p>
      )}
      {canEdit && (
        <div className="flex flex-wrap gap-1 mt-2" role="group" aria-label="Add a piece">
          {kinds.map((k) => (
            <Button icon={PIECE_ICONS[k] ?? Plus} key={k} onClick={() => add(k)}>
              {DEVICE_WORDS[k]}
            </Button>
          ))}
        </div>
      )}
    </div>
  );
}
