"use client";
import { Figure } from "@/components/draft/figure";
import { useWorkspace } from "@/components/draft/site-draft";
import { patchDevice } from "@/components/draft/waterworks-edits";
import { useConventions } from "@/components/kit/conventions";
import { ChoiceField } from "@/components/kit/fields";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import { PRESSURE_RESPONSES } from "@/components/words/response-words";
import type { Patch } from "@/core/site-file/patch";
import type { DeviceOf } from "@/core/site-file/schema";

type Gauge = DeviceOf<"pressureSensor">;

/** What is judged at the pressure sensors of each connection while stations run; what it has not of its own, it has from the flow limits. */
export function PressureLimits() {
  const { draft } = useWorkspace("draft");
  const { unit } = useConventions();
  const gauges = draft.pocs.flatMap((at) =>
    at.devices.flatMap((d) => (d.kind === "pressureSensor" ? [{ gauge: d, at: at.name }] : [])),
  );
  if (gauges.length === 0) return null;
  return (
    <section aria-label="Pressure">
      <h3 className="mt-4 text-lg">Pressure</h3>
      <p className="max-w-prose text-sm text-faint">
        Judged while stations run, after hold-off. No station is to blame for pressure: none is searched for.
      </p>
      <Scroller>
        <Table aria-label="Pressure limits">
          <thead>
            <tr>
              <th>Sensor</th>
              <th className="text-right">Under, {unit("pressure")}</th>
              <th className="text-right">Over, {unit("pressure")}</th>
              <th className="text-right">for, s</th>
              <th>then</th>
            </tr>
          </thead>
          <tbody>
            {gauges.map(({ gauge, at }) => (
              <GaugeRow key={gauge.id} gauge={gauge} at={at} />
            ))}
          </tbody>
        </Table>
      </Scroller>
    </section>
  );
}

function GaugeRow({ gauge, at }: { gauge: Gauge; at: string }) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const put = (values: Patch<Gauge>): void => edit(patchDevice(gauge.id, values));
  const name = gauge.name ?? `pressure at ${at}`;
  // A search finds no pressure: it stops what runs, like the other.
  const response = gauge.response === "findAndIsolate" ? "stopStation" : gauge.response;
  const limit = (key: "lowKpa" | "highKpa", label: string) => (
    <td className="w-36">
      <Figure
        of={gauge}
        at={key}
        put={put}
        label={`${label} of ${name}`}
        hideLabel
        quantity="pressure"
        placeholder="none"
      />
    </td>
  );
  return (
    <tr>
      <td>
        <span className="font-semibold">{gauge.name ?? "Pressure sensor"}</span>{" "}
        <span className="text-sm text-faint">{at}</span>
      </td>
      {limit("lowKpa", "Low limit")}
      {limit("highKpa", "High limit")}
      <td className="w-24">
        <Figure
          of={gauge}
          at="persistenceS"
          put={put}
          label={`Persistence of ${name}`}
          hideLabel
          unit="s"
          min={0}
          max={86_400}
          whole
          whenEmpty={draft.policy.persistenceS}
        />
      </td>
      <td className="w-52">
        <ChoiceField
          label={`Response of ${name}`}
          hideLabel
          value={response ?? ""}
          options={PRESSURE_RESPONSES}
          disabled={!canEdit}
          onCommit={(v) => put({ response: v === "" ? undefined : v })}
        />
      </td>
    </tr>
  );
}
