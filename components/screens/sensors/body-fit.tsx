"use client";
import { Scroller } from "@/components/kit/scroller";
import { Mark } from "@/components/kit/notice";
import { Table } from "@/components/kit/table";
import { Button } from "@/components/kit/button";
import { replaceDevice } from "@/components/draft/waterworks-edits";
import { useLibrary } from "@/components/data/use-library";
import { useWorkspace } from "@/components/draft/site-draft";
import { type LibraryItem, withBody } from "@/core/library/library-item";
import { TYPICAL } from "@/core/library/typical";
import { fitBodies } from "@/core/sensors/best-body";
import { sensorRange } from "@/core/sensors/sensor-range";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { FlowSensor, Station } from "@/core/site-file/schema";
import { showQuantity } from "@/core/units/units";

const SHOWN = 5;

/** Which body of the library would see the smallest station and read up to the ceiling with most to spare. */
export function BodyFit({
  sensor,
  stations,
  mostLpm,
}: {
  sensor: FlowSensor;
  stations: Station[];
  mostLpm: number | null;
}) {
  const { edit, units, canEdit } = useWorkspace("edit", "units", "canEdit");
  const { items } = useLibrary();
  const flows = stations.filter((s) => s.monitored !== false).flatMap((s) => expectedFlow(s)?.lpm ?? []);
  const known = new Map<string, LibraryItem>();
  const bodies = [...items, ...TYPICAL].flatMap((item) => {
    if (item.body.kind !== "flowSensor") return [];
    const { minLpm, maxLpm } = sensorRange({ id: "x", ...item.body });
    if (minLpm === null || maxLpm === null || known.has(item.name)) return [];
    known.set(item.name, item);
    return [{ label: item.name, minLpm, maxLpm }];
  });
  if (flows.length === 0 || bodies.length === 0) return null;
  const fits = fitBodies(bodies, flows, mostLpm);
  const flow = (lpm: number): string => showQuantity(lpm, "flow", units, lpm < 100 ? 1 : 0);
  return (
    <details className="mt-3">
      <summary className="cursor-pointer font-semibold">
        Which body would fit best:{" "}
        {fits[0]?.unseen === 0 && fits[0].reaches ? fits[0].label : `none fits; ${fits[0]?.label} comes nearest`}
      </summary>
      <Scroller>
        <Table className="max-w-3xl">
          <thead>
            <tr>
              <th>Body</th>
              <th className="text-right">Sees from</th>
              <th className="text-right">to</th>
              <th>Stations</th>
              <th>Ceiling</th>
              <th>
                <span className="sr-only">Choose</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {fits.slice(0, SHOWN).map((f) => (
              <tr key={f.label}>
                <td>{f.label}</td>
                <td className="text-right">{flow(f.minLpm)}</td>
                <td className="text-right">{flow(f.maxLpm)}</td>
                <td>
                  {f.unseen === 0 ? (
                    "all seen"
                  ) : (
                    <span className="text-warning">
                      <Mark tone="caution" /> {f.unseen} unseen
                    </span>
                  )}
                </td>
                <td>
                  {f.reaches ? (
                    "reads it"
                  ) : (
                    <span className="text-warning">
                      <Mark tone="caution" /> beyond it
                    </span>
                  )}
                </td>
                <td>
                  {canEdit && (
                    <Button
                      rank="quiet"
                      aria-label={`Take ${f.label}`}
                      onClick={() =>
                        edit(replaceDevice(sensor.id, (d) => withBody(d, known.get(f.label) as LibraryItem)))
                      }
                    >
                      Take it
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Scroller>
      <p className="text-sm text-faint">
        From your library and the generic one (typical, check the data sheet).{" "}
        {fits[0]?.unseen
          ? "No single size fits: a second sensor for the small stations, or leave them unwatched knowingly."
          : ""}
      </p>
    </details>
  );
}
