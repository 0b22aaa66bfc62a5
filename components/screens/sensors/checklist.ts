import { latestCheck } from "@/core/site-file/device-checks";
import type { FlowSensor } from "@/core/site-file/schema";

/** The wiring and placement checks of a flow sensor (handbook#4-sensors), each with its reason. */
export const SENSOR_CHECKS: { check: string; what: string; why: string }[] = [
  {
    check: "polarity",
    what: "Red to plus, black to minus, as the sheet says",
    why: "Reversed, most sensors read 0 Hz while water surely flows.",
  },
  {
    check: "shield",
    what: "Shielded cable of its own, away from valve wires",
    why: "Without a shield, 24 V valve wires induce pulses: flow while everything is off.",
  },
  {
    check: "drain",
    what: "Drain wire earthed at the controller end only",
    why: "Earthed at both ends it carries current between two grounds, and makes the noise it should keep out.",
  },
  {
    check: "ownInput",
    what: "Alone on its input of the controller",
    why: "Two sensors on one input add their pulses; neither can be told apart or proved.",
  },
  {
    check: "jumper",
    what: "The input's jumper taken out (left in where no sensor is wired)",
    why: "A jumper left in shorts the sensor; one missing from an empty input lets it float and count.",
  },
  {
    check: "straightPipe",
    what: "10 diameters of straight pipe before it and 5 after, unless the sheet says otherwise",
    why: "Bends and valves swirl the water; K then belongs to another flow.",
  },
  {
    check: "order",
    what: "In series with the master valve, no branch between them",
    why: "Either side reads the same flow; a branch between them is flow that one of them does not see.",
  },
];

export function checksDone(sensor: FlowSensor): { done: number; wrong: number; of: number } {
  const latest = SENSOR_CHECKS.map((c) => latestCheck(sensor, c.check));
  return {
    done: latest.filter((c) => c !== null).length,
    wrong: latest.filter((c) => c && !c.ok).length,
    of: SENSOR_CHECKS.length,
  };
}
