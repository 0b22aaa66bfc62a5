import type { DeviceBody } from "@/core/library/library-item";
import { sensorRange } from "@/core/sensors/sensor-range";

const said = (...parts: (string | false | undefined)[]): string => parts.filter(Boolean).join(" · ");
const lpm = (v: number | undefined, words: string): string | undefined =>
  v === undefined ? undefined : `${words} ${Number(v.toFixed(1))} L/min`;

/** A data sheet in one line. */
export function sheetWords(body: DeviceBody): string {
  switch (body.kind) {
    case "meter":
      return said(
        lpm(body.continuousMaxLpm, "all day"),
        lpm(body.safeMaxLpm, "safe maximum"),
        body.lossKpaAt && `${body.lossKpaAt.lossKpa} kPa at ${body.lossKpaAt.flowLpm} L/min`,
      );
    case "backflow":
      return said(
        lpm(body.maxLpm, "at most"),
        body.lossPoints?.map((p) => `${p.lossKpa} kPa at ${p.flowLpm}`).join(", "),
      );
    case "masterValve":
      return said(
        `normally ${body.normally}`,
        lpm(body.maxLpm, "at most"),
        body.kv !== undefined && `Kv ${body.kv}`,
        body.coil === "ac24" ? "24 V AC" : body.coil && "latching DC",
        body.solenoidMa !== undefined && `${body.solenoidMa} mA`,
      );
    case "pump":
      return said(
        `${body.curve.length} points, ${body.curve[0]?.headM} m at ${body.curve[0]?.flowLpm} L/min`,
        lpm(body.bestEfficiencyLpm, "best at"),
        lpm(body.minFlowLpm, "not under"),
        (body.parallel ?? 1) > 1 && `${body.parallel} side by side`,
      );
    case "pipe":
      return said(
        `${body.material} ${body.series} ${body.nominal}`,
        body.insideDiameterMm !== undefined && `inside ${body.insideDiameterMm} mm`,
      );
    case "fixedLoss":
      return `${body.lossKpa} kPa`;
    case "regulator":
      return `set to ${body.setKpa} kPa`;
    case "pressureSensor":
      return said(
        body.lowKpa !== undefined && `low ${body.lowKpa} kPa`,
        body.highKpa !== undefined && `high ${body.highKpa} kPa`,
      );
    case "flowSensor": {
      const { minLpm, maxLpm } = sensorRange({ id: "x", ...body });
      const constant =
        body.output.type === "pulse"
          ? `${Number(body.output.litresPerPulse.toFixed(4))} L a pulse`
          : `K ${body.output.kGpm}, offset ${body.output.offsetHz} Hz`;
      return said(
        constant,
        minLpm !== null && maxLpm !== null && `sees ${minLpm.toFixed(1)} to ${maxLpm.toFixed(0)} L/min`,
      );
    }
  }
}
