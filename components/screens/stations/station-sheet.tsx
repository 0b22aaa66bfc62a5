"use client";
import { patchStation } from "@/components/draft/patch-element";
import { Figure } from "@/components/draft/figure";
import { Button } from "@/components/kit/button";
import type { Patch } from "@/core/site-file/patch";
import { useState } from "react";
import { ChoiceField, NumberField } from "@/components/kit/fields";
import { WordsFields } from "@/components/draft/words-fields";
import { useWorkspace } from "@/components/draft/site-draft";
import { useConventions } from "@/components/kit/conventions";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { Station } from "@/core/site-file/schema";
import {
  cycleAid,
  emitterFlowLpm,
  minutesForDepth,
  precipitationMmH,
  type Soil,
  TYPICAL_EMITTERS,
} from "@/core/stations/emitters";
import { showNumber, showQuantity } from "@/core/units/units";

const SOILS: [Soil, string][] = [
  ["sand", "sand"],
  ["sandyLoam", "sandy loam"],
  ["loam", "loam"],
  ["clayLoam", "clay loam"],
  ["clay", "clay"],
];

/** Aids for the chosen station: design flow from its outlets, rain rate, minutes for a depth, cycles and soak from soil and slope. */
export function StationSheet({ station }: { station: Station }) {
  const { edit, units, canEdit } = useWorkspace("edit", "units", "canEdit");
  const { quantity } = useConventions();
  const [kindId, setKind] = useState(TYPICAL_EMITTERS.find((k) => k.emitter === station.emitter)?.id ?? "spray-half");
  const [depth, setDepth] = useState<number | undefined>(10);
  const [soil, setSoil] = useState<Soil>("loam");
  const [slope, setSlope] = useState<number | undefined>(2);
  const put = (values: Patch<Station>): void => edit(patchStation(station.id, values));
  const kind = TYPICAL_EMITTERS.find((k) => k.id === kindId) as (typeof TYPICAL_EMITTERS)[number];
  const typical = emitterFlowLpm(kind, station.requiredKpa || kind.atKpa);
  const flow = expectedFlow(station);
  const rate = precipitationMmH(flow?.lpm, station.areaM2);
  const aid = rate === null ? null : cycleAid(rate, soil, slope ?? 0);
  const outlets = (count: number | undefined, lpmEach: number | undefined): void =>
    put(
      count === undefined || lpmEach === undefined
        ? { emitters: undefined }
        : { emitters: { count, lpmEach }, designFlowLpm: Number((count * lpmEach).toFixed(6)) },
    );
  return (
    <aside aria-label="Aids for the chosen station" className="min-w-0 max-h-[calc(100dvh-17rem)] overflow-y-auto">
      <h3 className="text-lg">
        {station.number} {station.name || "unnamed"}
      </h3>
      <p className="text-sm mb-2">
        {flow ? `Expected ${showQuantity(flow.lpm, "flow", units, 1)}, ${flow.from}.` : "No flow figure yet."}
      </p>
      <div className="grid grid-cols-2 gap-2">
        <div className="col-span-2">
          <ChoiceField
            label="Outlet"
            value={kindId}
            options={TYPICAL_EMITTERS.map((k) => [k.id, k.name] as const)}
            hint={`typical ${showQuantity(typical, "flow", units, 2)} at ${showQuantity(station.requiredKpa || kind.atKpa, "pressure", units)}; check the sheet`}
            onCommit={setKind}
          />
        </div>
        <NumberField
          label="Outlets"
          value={station.emitters?.count}
          min={0}
          max={1_000_000}
          disabled={!canEdit}
          onCommit={(v) => outlets(v, station.emitters?.lpmEach ?? typical)}
        />
        <NumberField
          label="Flow of one"
          value={station.emitters?.lpmEach}
          quantity="flow"
          system={units}
          min={0}
          max={100_000}
          whenEmpty={typical}
          disabled={!canEdit}
          onCommit={(v) => outlets(station.emitters?.count ?? 1, v)}
        />
        <Figure of={station} at="areaM2" put={put} label="Area" quantity="area" />
        <NumberField
          label="Depth to put on"
          quantity="depth"
          system={units}
          value={depth}
          min={0.1}
          max={500}
          onCommit={setDepth}
        />
      </div>
      <p className="my-2">
        {rate === null ? (
          <span className="text-faint">With an area: the rain rate, and the minutes for a depth.</span>
        ) : (
          <>
            Rain rate <strong>{quantity(rate, "rainRate")}</strong>.{" "}
            {depth ? (
              <>
                {quantity(depth, "depth")} take <strong>{showNumber(minutesForDepth(depth, rate), 1)} min</strong>.
              </>
            ) : (
              ""
            )}
          </>
        )}
      </p>
      {rate !== null && (
        <>
          <div className="grid grid-cols-2 gap-2">
            <ChoiceField label="Soil" value={soil} options={SOILS} onCommit={setSoil} />
            <NumberField label="Slope" unit="%" value={slope} min={0} max={100} onCommit={setSlope} />
          </div>
          {aid &&
            (aid.needed ? (
              <p className="my-2">
                It would run off: cycles of at most <strong>{aid.longestMin} min</strong>, then a soak of{" "}
                <strong>{aid.soakMin} min</strong> (typical intake {quantity(aid.intakeMmH, "rainRate")}; look at the
                ground).{" "}
                {canEdit && (
                  <Button
                    className="mt-1"
                    onClick={() => put({ cycle: { longestMin: aid.longestMin }, soakMin: aid.soakMin })}
                  >
                    Take cycle and soak
                  </Button>
                )}
              </p>
            ) : (
              <p className="my-2">The soil takes it in: no cycles needed.</p>
            ))}
        </>
      )}
      <WordsFields of={station} put={put} />
    </aside>
  );
}
