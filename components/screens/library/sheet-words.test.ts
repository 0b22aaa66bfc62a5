import { describe, expect, it } from "vitest";
import { conventions } from "@/components/kit/conventions";
import { TYPICAL } from "@/core/library/typical";
import type { DeviceBody } from "@/core/library/library-item";
import { sheetWords } from "./sheet-words";

const metric = conventions("metric");
const us = conventions("us");

describe("a data sheet in one line", () => {
  it.each<[DeviceBody, string]>([
    [
      { kind: "meter", continuousMaxLpm: 1230, safeMaxLpm: 2461, lossKpaAt: { flowLpm: 2461, lossKpa: 90 } },
      "all day 1,230 L/min · safe maximum 2,461 L/min · 90 kPa at 2,461 L/min",
    ],
    [{ kind: "meter" }, ""],
    [
      { kind: "backflow", maxLpm: 300, lossPoints: [{ flowLpm: 100, lossKpa: 60 }] },
      "at most 300 L/min · 60 kPa at 100 L/min",
    ],
    [{ kind: "masterValve", normally: "closed", kv: 40, coil: "dcLatching" }, "normally closed · Kv 40 · latching DC"],
    [
      {
        kind: "pump",
        curve: [
          { flowLpm: 0, headM: 60 },
          { flowLpm: 400, headM: 40 },
        ],
        minFlowLpm: 50,
        parallel: 2,
      },
      "2 points · 60 m at 0 L/min · not under 50 L/min · 2 side by side",
    ],
    [{ kind: "fixedLoss", lossKpa: 35 }, "35 kPa"],
    [{ kind: "regulator", setKpa: 350 }, "set to 350 kPa"],
    [{ kind: "pressureSensor", lowKpa: 200 }, "low 200 kPa"],
    [{ kind: "flowSensor", output: { type: "pulse", litresPerPulse: 10 } }, "10 L a pulse"],
    [
      { kind: "flowSensor", output: { type: "frequency", kGpm: 1.6, offsetHz: 0.3 }, minLpm: 10, maxLpm: 1500 },
      "K 1.6, offset 0.3 Hz · sees 10 L/min to 1,500 L/min",
    ],
  ])("%j", (body, words) => {
    expect(sheetWords(body, metric).replace(/(\d)\.0\b/g, "$1")).toBe(words);
  });
  it("is in the units of who reads it, every kind of the generic ones", () => {
    for (const { body } of TYPICAL) {
      expect(sheetWords(body, us), JSON.stringify(body)).not.toMatch(/L\/min|kPa|undefined|NaN/);
      expect(sheetWords(body, metric), JSON.stringify(body)).not.toMatch(/gal|psi|undefined|NaN/);
    }
  });
});
