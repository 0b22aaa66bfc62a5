import { describe, expect, it } from "vitest";
import type { MeterLog } from "@/contracts/meters";
import type { Todo, VisitView } from "@/contracts/visits";
import type { WalkView } from "@/contracts/walks";
import { checkLines } from "@/core/wiring/valve-check";
import { smallSite } from "@/testing/small-site";
import {
  countersCsv,
  dueCsv,
  metersCsv,
  timelineCsv,
  todosCsv,
  valveCheckCsv,
  visitsCsv,
  walksCsv,
} from "./record-csv";

const site = smallSite();
const AT = "2026-07-14T10:00:00.000Z";
const rows = (csv: string): string[] => csv.trimEnd().split("\n");
const look = { id: "e", note: "wet, by the gate", photoIds: ["p"], at: AT, by: "Tolly" };

describe("the record as CSV", () => {
  it("has every line of a visit, looked at or not", () => {
    const line = (id: string, words: string) => ({ id, words, duty: null });
    const visit: VisitView = {
      id: "v",
      checklistId: "monthly",
      name: "Monthly",
      lines: [line("boxes", "Valve boxes"), line("pump", "Pump")],
      begunAt: AT,
      endedAt: null,
      note: "",
      by: "Tolly",
      mine: true,
      looked: [{ ...look, lineId: "boxes", state: "problem" }],
    };
    expect(rows(visitsCsv([visit]))).toEqual([
      "visit,begun,ended,who,line,state,note,photographs,at",
      `Monthly,${AT},,Tolly,Valve boxes,Not in order,"wet, by the gate",1,${AT}`,
      `Monthly,${AT},,Tolly,Pump,,,,`,
    ]);
  });
  it("has every station of a walk with what was read of it", () => {
    const walk: WalkView = {
      id: "w",
      stationIds: ["s1", "s2"],
      begunAt: AT,
      endedAt: AT,
      note: "",
      by: "Tolly",
      mine: false,
      looked: [{ ...look, stationId: "s1", state: "problem", problem: "leak", readLpm: 131 }],
    };
    expect(rows(walksCsv([walk], site)).slice(1)).toEqual([
      `${AT},${AT},Tolly,station 1 S1,problem,leak,131,"wet, by the gate",1,${AT}`,
      `${AT},${AT},Tolly,station 2 S2,,,,,,`,
    ]);
  });
  it("has what is to do and what is due, with who and when; a formula is words", () => {
    const todo: Todo = {
      id: "t",
      words: "=HYPERLINK()",
      subjectId: "s1",
      ownerId: null,
      owner: null,
      due: "2026-07-20",
      photoIds: [],
      visitId: null,
      madeBy: "Tolly",
      madeAt: AT,
      done: { at: AT, by: "Maren", words: "new seal" },
      version: 2,
    };
    expect(rows(todosCsv([todo], site))[1]).toBe(
      `'=HYPERLINK(),station 1 S1,,2026-07-20,${AT},Tolly,${AT},Maren,new seal`,
    );
    const due = { duty: "battery" as const, subjectId: "ctl", name: "Controller", last: null, on: "2026-08-01" };
    const done = {
      id: "d",
      duty: "backflow" as const,
      subjectId: null,
      on: "2026-05-01",
      words: "passed",
      by: "Tolly",
    };
    expect(rows(dueCsv({ due: [due], done: [done] }, site)).slice(1)).toEqual([
      "backup battery,Controller,,2026-08-01,,",
      "backflow test,,2026-05-01,,Tolly,passed",
    ]);
  });
  it("has meters beside their sensors, and counters", () => {
    const log: MeterLog = {
      meterId: "m",
      sensorIds: ["fs"],
      verdict: { kind: "none" } as unknown as MeterLog["verdict"],
      readings: [
        {
          id: "r",
          at: AT,
          m3: 120.5,
          begins: false,
          note: "",
          photoId: null,
          by: "Tolly",
          between: { meterM3: 20.5, sensorM3: 19.25, days: 7 },
        },
        { id: "q", at: AT, m3: 100, begins: true, note: "", photoId: null, by: "Tolly", between: null },
      ],
    };
    expect(rows(metersCsv([log], () => "Meter")).slice(1)).toEqual([
      `Meter,${AT},Tolly,120.5,,20.5,19.25,1.25,`,
      `Meter,${AT},Tolly,100,yes,,,,`,
    ]);
    const counter = { sensorId: "fs", counter: 1 as const, litres: 12_345, since: AT, by: "Tolly", reason: "a month" };
    expect(rows(countersCsv([counter], () => "Sensor"))[1]).toBe(`Sensor,1,12.345,${AT},Tolly,a month`);
  });
  it("has a check by wire with what each figure means, and the timeline as it is told", () => {
    const lines = checkLines(site, "ctl", "ohm", [{ stationId: "s1", value: 1e6 }], [{ stationId: "s1", value: 38 }]);
    const [head, first, second] = rows(valveCheckCsv(lines, "ohm"));
    expect(head).toBe("station,read ohm,before ohm,means,look at next");
    expect(first).toMatch(/^1 S1,1000000,38,[^,]+,.+/);
    expect(second).toBe("2 S2,,,,");
    expect(
      rows(timelineCsv([{ at: AT, sort: "walk", title: "Walk, Tolly", words: "dry", open: true, place: "log" }]))[1],
    ).toBe(`${AT},walk,"Walk, Tolly",dry,open`);
  });
});
