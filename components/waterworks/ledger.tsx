"use client";
import { useEffect, useRef } from "react";
import { Caution, ChoiceField, NumberField, TextField, TickField } from "@/components/fields/fields";
import { useWorkspace } from "@/components/workspace/workspace";
import { ceilings, type ElementCeiling } from "@/core/ceilings/ceilings";
import type { Device, Mainline, Poc, SiteFile, Source } from "@/core/site-file/schema";
import { showQuantity } from "@/core/units/units";
import { DeviceForm } from "./device-form";
import { addDevice, deletionBlocks, moveDevice, patchController, patchMainline, patchPoc, patchSource, remove } from "./edits";
import { DEVICE_WORDS, RULE_WORDS } from "./rule-words";
import { WindowList } from "./window-list";

type Props = { selected: string | null; onSelect: (id: string | null) => void };

/** Every element with its ceiling and what binds it; the selected one opened to all its rules and data. */
export function Ledger({ selected, onSelect }: Props) {
  const { draft, units } = useWorkspace();
  const figures = new Map(ceilings(draft).map((c) => [c.id, c]));
  const owner = (id: string | null): string | null =>
    id === null ? null : (draft.pocs.find((p) => p.id === id || p.devices.some((d) => d.id === id))?.id ?? draft.mainlines.find((m) => m.id === id || m.pipes.some((d) => d.id === id) || m.devices?.some((d) => d.id === id))?.id ?? id);
  const open = owner(selected);
  const groups: [string, { id: string; name: string }[]][] = [["Sources", draft.sources], ["Points of connection", draft.pocs], ["Mainlines", draft.mainlines], ["Controllers", draft.controllers]];
  return (
    <div>
      {groups.map(([title, items]) => items.length > 0 && (
        <section key={title} className="mb-4">
          <h3 className="text-lg border-b-2 border-base-content">{title}</h3>
          {items.map((item) => {
            const c = figures.get(item.id);
            return (
              <article key={item.id} className="border-b rule">
                <button type="button" aria-expanded={open === item.id} onClick={() => onSelect(open === item.id ? null : item.id)} className="w-full flex flex-wrap justify-between gap-x-3 py-1.5 text-left hover:bg-base-200 cursor-pointer">
                  <strong>{item.name}</strong>
                  {c && <span>{c.ceilingLpm === null ? <span className="faint">nothing limits it</span> : <><strong>{showQuantity(c.ceilingLpm, "flow", units)}</strong> <span className="faint">{RULE_WORDS[c.boundBy?.rule ?? ""]}</span></>}</span>}
                </button>
                {open === item.id && <Opened id={item.id} ceiling={c} selected={selected} onSelect={onSelect} />}
              </article>
            );
          })}
        </section>
      ))}
    </div>
  );
}

function Opened({ id, ceiling, selected, onSelect }: { id: string; ceiling: ElementCeiling | undefined; selected: string | null; onSelect: (id: string | null) => void }) {
  const { draft, edit, canEdit } = useWorkspace();
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => { box.current?.scrollIntoView({ block: "nearest" }); }, [selected]);
  const source = draft.sources.find((s) => s.id === id);
  const poc = draft.pocs.find((p) => p.id === id);
  const mainline = draft.mainlines.find((m) => m.id === id);
  const controller = draft.controllers.find((c) => c.id === id);
  const blocks = deletionBlocks(draft, id);
  return (
    <div ref={box} className="pb-3 pl-2 border-l-4 border-base-content mb-2">
      {ceiling && ceiling.rules.length > 0 && <Rules ceiling={ceiling} onSelect={onSelect} />}
      {source && <SourceForm source={source} />}
      {poc && <PocForm poc={poc} />}
      {mainline && <MainlineForm mainline={mainline} />}
      {controller && <ControllerForm controller={controller} />}
      {(poc || mainline) && <Devices ownerId={id} devices={poc ? poc.devices : [...(mainline?.devices ?? []), ...(mainline?.pipes ?? [])]} kinds={poc ? POC_KINDS : MAIN_KINDS} selected={selected} onSelect={onSelect} />}
      {canEdit && (
        <div className="mt-3">
          <button type="button" className="act" disabled={blocks.length > 0} onClick={() => { edit(remove(id)); onSelect(null); }}>Delete</button>
          {blocks.length > 0 && <span className="text-sm faint ml-2">First move or delete {blocks.slice(0, 2).join(", ")}{blocks.length > 2 ? ` and ${blocks.length - 2} more` : ""}.</span>}
        </div>
      )}
    </div>
  );
}

function Rules({ ceiling, onSelect }: { ceiling: ElementCeiling; onSelect: (id: string) => void }) {
  const { draft, units } = useWorkspace();
  const device = (id: string | undefined): Device | undefined => [...draft.pocs.flatMap((p) => p.devices), ...draft.mainlines.flatMap((m) => [...m.pipes, ...(m.devices ?? [])])].find((d) => d.id === id);
  return (
    <table className="sheet my-2 text-[0.95rem]">
      <thead><tr><th>Rule</th><th>Piece</th><th className="num">Figure</th></tr></thead>
      <tbody>
        {ceiling.rules.map((r) => {
          const binds = ceiling.boundBy?.rule === r.rule && ceiling.boundBy.deviceId === r.deviceId;
          const d = device(r.deviceId);
          return (
            <tr key={`${r.rule}${r.deviceId}`} className={binds ? "font-semibold" : ""}>
              <td>{binds ? <span className="text-warning">▶ binds: </span> : null}{RULE_WORDS[r.rule]}</td>
              <td>{d ? <button type="button" className="underline underline-offset-2 cursor-pointer text-left" onClick={() => onSelect(d.id)}>{d.name ?? (d.kind === "pipe" ? `${d.material} ${d.nominal}` : DEVICE_WORDS[d.kind])}</button> : "–"}</td>
              <td className="num">{showQuantity(r.lpm, "flow", units)}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

const POC_KINDS: Device["kind"][] = ["meter", "backflow", "masterValve", "pump", "pipe", "flowSensor", "pressureSensor", "regulator", "fixedLoss"];
const MAIN_KINDS: Device["kind"][] = ["pipe", "masterValve", "flowSensor", "pressureSensor", "regulator", "fixedLoss"];

function Devices({ ownerId, devices, kinds, selected, onSelect }: { ownerId: string; devices: Device[]; kinds: Device["kind"][]; selected: string | null; onSelect: (id: string | null) => void }) {
  const { draft, edit, canEdit } = useWorkspace();
  const add = (kind: Device["kind"]): void => {
    const made = addDevice(draft, ownerId, kind);
    edit(() => made.file);
    onSelect(made.id);
  };
  return (
    <div className="mt-3">
      <h4 className="font-semibold">Pieces in flow order</h4>
      {devices.map((d) => (
        <div key={d.id} className="border-t rule">
          <div className="flex items-center gap-1">
            <button type="button" aria-expanded={selected === d.id} className="grow text-left py-1 hover:bg-base-200 cursor-pointer" onClick={() => onSelect(selected === d.id ? ownerId : d.id)}>{d.name ?? DEVICE_WORDS[d.kind]}{d.kind === "pipe" ? <span className="faint"> {d.material} {d.series} {d.nominal}</span> : null}</button>
            {canEdit && (
              <>
                <button type="button" className="act act-quiet" aria-label={`Move ${d.name ?? DEVICE_WORDS[d.kind]} up the flow`} onClick={() => edit(moveDevice(d.id, -1))}>↑</button>
                <button type="button" className="act act-quiet" aria-label={`Move ${d.name ?? DEVICE_WORDS[d.kind]} down the flow`} onClick={() => edit(moveDevice(d.id, 1))}>↓</button>
                <button type="button" className="act act-quiet" aria-label={`Delete ${d.name ?? DEVICE_WORDS[d.kind]}`} onClick={() => { edit(remove(d.id)); onSelect(ownerId); }}>Delete</button>
              </>
            )}
          </div>
          {selected === d.id && <div className="py-2"><DeviceForm device={d} /></div>}
        </div>
      ))}
      {canEdit && (
        <div className="flex flex-wrap gap-1 mt-2" role="group" aria-label="Add a piece">
          {kinds.map((k) => <button key={k} type="button" className="act" onClick={() => add(k)}>+ {DEVICE_WORDS[k]}</button>)}
        </div>
      )}
    </div>
  );
}

function SourceForm({ source }: { source: Source }) {
  const { edit, units, canEdit } = useWorkspace();
  const put = (values: Partial<Source>): void => edit(patchSource(source.id, values));
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2">
      <TextField label="Name" value={source.name} disabled={!canEdit} onCommit={(v) => put({ name: v.trim() || source.name })} />
      <ChoiceField label="Kind" value={source.kind} disabled={!canEdit} options={[["municipal", "municipal"], ["well", "well"], ["pond", "pond or lake"], ["reclaimed", "reclaimed"], ["tank", "tank"]]} onCommit={(v) => put({ kind: v })} />
      <NumberField label="Sustained yield" value={source.yieldLpm} quantity="flow" system={units} min={0} max={1_000_000} disabled={!canEdit} onCommit={(v) => put({ yieldLpm: v })} />
      <NumberField label="Static pressure" value={source.staticPressureKpa} quantity="pressure" system={units} min={0} max={10_000} disabled={!canEdit} onCommit={(v) => put({ staticPressureKpa: v })} />
      <NumberField label="Priority (lowest first)" value={source.priority ?? 1} min={0} max={1000} whole disabled={!canEdit} onCommit={(v) => put({ priority: v })} />
      <div className="self-end flex flex-wrap gap-x-4">
        <TickField label="in use" checked={source.enabled !== false} disabled={!canEdit} onCommit={(v) => put({ enabled: v ? undefined : false })} />
        <TickField label="drinking water" checked={source.potable ?? source.kind === "municipal"} disabled={!canEdit} onCommit={(v) => put({ potable: v })} />
      </div>
      <div className="col-span-2"><WindowList label="Available hours (none: always)" value={source.hours} onCommit={(hours) => put({ hours })} disabled={!canEdit} /></div>
      {source.kind === "reclaimed" && <div className="col-span-2"><Caution>Reclaimed water: not for drinking; marking, spray hours and setbacks as the permit says.</Caution></div>}
    </div>
  );
}

const toggle = (list: string[], id: string, on: boolean): string[] => (on ? [...list, id] : list.filter((x) => x !== id));
const RESPONSES = [["notify", "notify"], ["stopStation", "stop station"], ["findAndIsolate", "find and isolate"], ["stopAll", "stop all"]] as const;

function PocForm({ poc }: { poc: Poc }) {
  const { draft, edit, units, canEdit } = useWorkspace();
  const put = (values: Partial<Poc>): void => edit(patchPoc(poc.id, values));
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2">
      <TextField label="Name" value={poc.name} disabled={!canEdit} onCommit={(v) => put({ name: v.trim() || poc.name })} />
      <fieldset><legend className="text-sm faint">Draws on</legend>
        {draft.sources.length === 0 && <span className="text-sm">Add a source first.</span>}
        {draft.sources.map((s) => <div key={s.id}><TickField label={s.name} checked={poc.sourceIds.includes(s.id)} disabled={!canEdit} onCommit={(on) => put({ sourceIds: toggle(poc.sourceIds, s.id, on) })} /></div>)}
      </fieldset>
      <EnteredCeiling element={poc} put={put} />
      <NumberField label="Burst limit" value={poc.burstLimitLpm} quantity="flow" system={units} min={0} max={1_000_000} disabled={!canEdit} onCommit={(v) => put({ burstLimitLpm: v })} />
      <ChoiceField label="at burst" value={poc.burstResponse ?? "stopAll"} disabled={!canEdit} options={RESPONSES} onCommit={(v) => put({ burstResponse: v })} />
      <NumberField label="Off-schedule limit" value={poc.offScheduleLimitLpm} quantity="flow" system={units} min={0} max={1_000_000} disabled={!canEdit} onCommit={(v) => put({ offScheduleLimitLpm: v })} />
      <ChoiceField label="at off-schedule flow" value={poc.offScheduleResponse ?? "notify"} disabled={!canEdit} options={RESPONSES} onCommit={(v) => put({ offScheduleResponse: v })} />
      <TextField label="Approved separation, where waters can meet" value={poc.approvedSeparation ?? ""} disabled={!canEdit} onCommit={(v) => put({ approvedSeparation: v.trim() || undefined })} />
    </div>
  );
}

function EnteredCeiling({ element, put }: { element: Poc | Mainline; put: (v: { ceilingLpm?: number; ceilingReason?: string }) => void }) {
  const { units, canEdit } = useWorkspace();
  return (
    <>
      <NumberField label="Ceiling by hand" value={element.ceilingLpm} quantity="flow" system={units} min={0} max={1_000_000} disabled={!canEdit} hint="lowers freely; raises only with a reason" onCommit={(v) => put({ ceilingLpm: v })} />
      <TextField label="Reason" value={element.ceilingReason ?? ""} disabled={!canEdit} onCommit={(v) => put({ ceilingReason: v.trim() || undefined })} />
    </>
  );
}

function MainlineForm({ mainline }: { mainline: Mainline }) {
  const { draft, edit, canEdit } = useWorkspace();
  const put = (values: Partial<Mainline>): void => edit(patchMainline(mainline.id, values));
  const feeds = [...draft.pocs, ...draft.mainlines.filter((m) => m.id !== mainline.id && !isFedBy(draft, m.id, mainline.id))];
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2">
      <TextField label="Name" value={mainline.name} disabled={!canEdit} onCommit={(v) => put({ name: v.trim() || mainline.name })} />
      <fieldset><legend className="text-sm faint">Fed by</legend>
        {feeds.length === 0 && <span className="text-sm">Add a point of connection first.</span>}
        {feeds.map((f) => <div key={f.id}><TickField label={f.name} checked={mainline.feedIds.includes(f.id)} disabled={!canEdit} onCommit={(on) => put({ feedIds: toggle(mainline.feedIds, f.id, on) })} /></div>)}
      </fieldset>
      <EnteredCeiling element={mainline} put={put} />
      <NumberField label="Hold-off" unit="s" value={mainline.holdOffS ?? 60} min={0} max={86_400} whole disabled={!canEdit} onCommit={(v) => put({ holdOffS: v })} />
      <NumberField label="Filling, first opening" unit="s" value={mainline.fillS ?? 120} min={0} max={86_400} whole disabled={!canEdit} onCommit={(v) => put({ fillS: v })} />
      <p className="col-span-2 text-sm faint">Feeds are one-way; a main that this one feeds cannot feed it.</p>
    </div>
  );
}

/** Would feeding `target` from `candidate` close a circle? */
function isFedBy(file: SiteFile, candidate: string, target: string): boolean {
  const main = file.mainlines.find((m) => m.id === candidate);
  return main?.feedIds.some((f) => f === target || isFedBy(file, f, target)) ?? false;
}

function ControllerForm({ controller }: { controller: SiteFile["controllers"][number] }) {
  const { edit, canEdit } = useWorkspace();
  const put = (values: Partial<SiteFile["controllers"][number]>): void => edit(patchController(controller.id, values));
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2">
      <TextField label="Name" value={controller.name} disabled={!canEdit} onCommit={(v) => put({ name: v.trim() || controller.name })} />
      <ChoiceField label="Powered by" value={controller.powered} disabled={!canEdit} options={[["mains", "mains"], ["battery", "battery"]]} onCommit={(v) => put({ powered: v })} />
      <NumberField label="Stations at most" value={controller.maxStations} min={1} max={10_000} whole disabled={!canEdit} onCommit={(v) => put({ maxStations: v })} />
      <NumberField label="Stations at once" value={controller.maxStationsAtOnce} min={1} max={10_000} whole disabled={!canEdit} onCommit={(v) => put({ maxStationsAtOnce: v })} />
      <NumberField label="Share of ceilings, if unlinked (0 to 1)" value={controller.unlinkedShare} min={0} max={1} disabled={!canEdit} hint="empty: linked, one dispatch with the others" onCommit={(v) => put({ unlinkedShare: v })} />
      <div className="self-end"><TickField label="off" checked={controller.off === true} disabled={!canEdit} onCommit={(v) => put({ off: v ? true : undefined })} /></div>
    </div>
  );
}
