import type { Conventions } from "@/components/kit/conventions";
import type { MeterVerdict } from "@/core/record/meter-comparison";

const percent = (share: number): string => `${share > 0 ? "+" : "−"}${Math.abs(100 * share).toFixed(1)} %`;

/** What the difference between a meter and its sensors is, why Presa thinks so, and what to do. */
export function verdictOfMeter(verdict: MeterVerdict, { quantity }: Pick<Conventions, "quantity">): string {
  switch (verdict.is) {
    case "none":
      return "Two readings are needed to compare the meter with the sensors behind it.";
    case "agrees":
      return `Meter and sensors agree (${percent(verdict.share)}), within what both can tell.`;
    case "constant":
      return `The meter counts ${percent(verdict.factor - 1)} against the sensors, however much flows: their constant. Prove the sensor against the meter and take the constant over.`;
    case "unseen":
      return `The meter counts ${quantity(verdict.litresADay, "volume")} a day more than the sensors, whatever is watered: water that they do not see. Shut everything, and look whether the meter still turns.`;
    case "either":
      return `The meter counts more than the sensors. It may be their constant (${percent(verdict.factor - 1)}) or ${quantity(verdict.litresADay, "volume")} a day that they do not see: these readings do not tell which. Read the meter before and after some days without watering.`;
    case "neither":
      return "Meter and sensors differ, and neither a wrong constant nor water unseen explains it alone. Something changed between the readings, or one of them is mistyped.";
  }
}
