import type { DiagnosisCode, Reading } from "./diagnose.ts";

export const PATTERN_WORDS: Record<Reading["pattern"], string> = {
  allHigh: "All high together",
  allLow: "All low together",
  flowAtRest: "Flow while nothing runs",
  flowBehindShutValve: "Flow with the master valve shut",
  drift: "The same station again and again over weeks",
  afterRepair: "A step after a repair",
  oneHigh: "One station high",
  oneLow: "One station low",
};

/** What a cause is called, the next check that tells it from the others, and what each answer would mean (handbook#8-limits). */
export const CAUSE_WORDS: Record<DiagnosisCode, { cause: string; check: string; yes: string; no: string }> = {
  constant: {
    cause: "sensor constant or inside diameter",
    check: "Run one station ten minutes and compare the sensor's litres with the water meter's.",
    yes: "They differ: prove the sensor, enter the new constant, learn again.",
    no: "They agree: the flow is real. Look at the mainline and the pressure.",
  },
  mainLeak: {
    cause: "the mainline leaks",
    check: "Close every station, open the master valve with the pump off, and read the meter for ten minutes.",
    yes: "It moves: walk the main for wet ground, and halve it at its isolating valves.",
    no: "It stands still: the main is tight. Suspect the constant, or raised pressure.",
  },
  supply: {
    cause: "supply closed or empty",
    check: "Read the static pressure at the connection; look at the street or tank valve.",
    yes: "None, or far too little: the supply.",
    no: "Pressure is there: look at pump, valves and sensor.",
  },
  pump: {
    cause: "pump failed, or lost its prime",
    check:
      "Is the pump's contactor in, and does it make pressure? Power off and locked before opening the panel; licensed electrician.",
    yes: "It does not run or makes no pressure: the pump.",
    no: "It makes its pressure: a valve after it, or the sensor.",
  },
  halfClosedValve: {
    cause: "a valve half closed on the way",
    check: "Follow the water from the connection on and open every isolating valve and flow control fully.",
    yes: "The flow rises: that valve.",
    no: "It stays: read the pressure before and after each device; the one with the large drop is it.",
  },
  sensorDead: {
    cause: "flow sensor dead",
    check: "Do sprinklers run while it reads nothing? Read the volts and ohms at the sensor.",
    yes: "Water runs: wire, polarity or a seized wheel.",
    no: "No water: the supply or a valve.",
  },
  stuckValve: {
    cause: "a station valve stuck open",
    check: "Walk the site with nothing scheduled: which sprinklers run? Feel the valves for flow.",
    yes: "That valve: clean its diaphragm, check its solenoid.",
    no: "None runs: a leak, or someone drawing water.",
  },
  leak: {
    cause: "a leak in main or lateral",
    check: "Close the isolating valves one after the other while someone reads the meter.",
    yes: "It stops at one: the leak is behind that.",
    no: "It goes on with all closed: it is before them.",
  },
  handWatering: {
    cause: "someone waters by hand",
    check: "Ask, and look at the times: does it fall in working hours?",
    yes: "Enter hand-watering hours and their flow, so that limits know.",
    no: "It runs at night too: a leak or a stuck valve.",
  },
  masterValvePasses: {
    cause: "the master valve passes",
    check: "Close the isolating valve before it for ten minutes.",
    yes: "The reading falls to nothing: clean or replace the master valve.",
    no: "It goes on: water comes from elsewhere, or the reading is not water.",
  },
  branchBeforeSensor: {
    cause: "a branch between master valve and sensor",
    check: "Look on the drawing and on site for a hose bib or branch there.",
    yes: "Move the sensor or count the branch's flow.",
    no: "There is none: back-feed, or noise.",
  },
  backFeed: {
    cause: "back-feed from another connection",
    check: "Shut the other connections one by one and watch the reading.",
    yes: "It falls: a check valve is missing or stuck there. Certified tester for backflow.",
    no: "It stays: not another connection.",
  },
  noise: {
    cause: "electrical noise on the sensor's wire",
    check: "Disconnect the sensor at its body: does the controller still count?",
    yes: "It counts without a sensor: shield the wire, mend splices, part it from power lines.",
    no: "It stops: what it counted was water.",
  },
  wear: {
    cause: "clogging or nozzle wear",
    check: "Clean filter and nozzles, learn the station again.",
    yes: "It is back at its old flow: set a shorter interval for cleaning.",
    no: "It stays: look for a leak or a worn valve.",
  },
  relearn: {
    cause: "its figure is from before the repair or change",
    check: "Look the station over while it runs; learn it again.",
    yes: "Nothing is wrong to see: take the new figure.",
    no: "Something is: mend it first, then learn.",
  },
  lateral: {
    cause: "broken lateral or nozzle",
    check: "Run it and walk it: a jet, a pool, dry heads at the end.",
    yes: "Mend it and learn it again.",
    no: "Nothing to see: measure it by meter and stopwatch.",
  },
  filter: {
    cause: "clogged filter, or its valve half open",
    check: "Flush the filter; open the valve by its bleed screw.",
    yes: "The flow rises: clean filter or diaphragm.",
    no: "It stays: look at the pressure at the valve.",
  },
};
