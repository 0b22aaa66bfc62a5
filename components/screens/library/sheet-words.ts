import type { Conventions } from "@/components/kit/conventions";
import type { DeviceBody } from "@/core/library/library-item";
import { sensorRange } from "@/core/sensors/sensor-range";

const said = (...parts: (string | false | undefined)[]): string => parts.filter(Boolean).join(" · ");

/** A data sheet in one line, in the units of where it is read. */
export function sheetWords(body: DeviceBody, { quantity }: Pick<Conventions, "quantity">): string {
  const flow = (lpm: number | undefined, words: string): string | undefined =>
    lpm === undefined ? undefined : `${words} ${quantity(lpm, "flow")}`;
  const pressure = (kPa: number | undefined, words: string): string | undefined =>
    kPa === undefined ? undefined : `${words} ${quantity(kPa, "pressure")}`;
  const loss = (at: { lossKpa: number; flowLpm: number }): string =>
    `${quantity(at.lossKpa, "pressure")} at ${quantity(at.flowLpm, "flow")}`;
  switch (body.kind) {
    case "meter":
      return said(
        flow(body.continuousMaxLpm, "all day"),
        flow(body.safeMaxLpm, "safe maximum"),
        body.lossKpaAt && loss(body.lossKpaAt),
      );
    case "backflow":
      return said(flow(body.maxLpm, "at most"), body.lossPoints?.map(loss).join(", "));
    case "masterValve":
      return said(
        `normally ${body.normally}`,
        flow(body.maxLpm, "at most"),
        body.kv !== undefined && `Kv ${body.kv}`,
        body.coil === "ac24" ? "24 V AC" : body.coil && "latching DC",
        body.solenoidMa !== undefined && `${body.solenoidMa} mA`,
      );
    case "pump": {
      const first = body.curve[0];
      return said(
        `${body.curve.length} points`,
        first && `${quantity(first.headM, "length")} at ${quantity(first.flowLpm, "flow")}`,
        flow(body.bestEfficiencyLpm, "best at"),
        flow(body.minFlowLpm, "not under"),
        (body.parallel ?? 1) > 1 && `${body.parallel} side by side`,
      );
    }
    case "pipe":
      return said(
        `${body.material} ${body.series} ${body.nominal}`,
        body.insideDiameterMm !== undefined && `inside ${quantity(body.insideDiameterMm, "diameter")}`,
      );
    case "fixedLoss":
      return quantity(body.lossKpa, "pressure");
    case "regulator":
      return `set to ${quantity(body.setKpa, "pressure")}`;
    case "pressureSensor":
      return said(pressure(body.lowKpa, "low"), pressure(body.highKpa, "high"));
    case "flowSensor": {
      const { minLpm, maxLpm } = sensorRange({ id: "x", ...body });
      const constant =
        body.output.type === "pulse"
          ? `${quantity(body.output.litresPerPulse, "volume")} a pulse`
          : `K ${body.output.kGpm}, offset ${body.output.offsetHz} Hz`;
      return said(
        constant,
        minLpm !== null && maxLpm !== null && `sees ${quantity(minLpm, "flow")} to ${quantity(maxLpm, "flow")}`,
      );
    }
  }
}
