"use client";
import { Dialog } from "@/components/kit/dialog";

const KEYS: [string, string][] = [
  ["1 – 9, 0", "screens of the work"],
  ["r", "Rounds"],
  ["/", "search everything: sites, stations, devices, people, alarms"],
  ["f", "find on this screen"],
  [":", "command line"],
  ["j, k", "next and previous row"],
  ["arrows, Enter", "move and edit in the grid, choose in pictures"],
  ["Shift + arrows", "mark rows in the grid; move what is chosen in the drawing"],
  ["Ctrl+D", "fill down"],
  ["Ctrl+Z, Ctrl+Y", "undo, redo"],
  [".", "findings"],
  ["b", "what binds"],
  ["d", "unsaved differences"],
  ["[ and ]", "previous and next event of a night"],
  ["Space", "run or pause the bench"],
  ["t", "picture or table"],
  ["u", "units"],
  ["?", "this page"],
];
const WORDS: [string, string][] = [
  [
    "ceiling",
    "hydraulic capacity: the largest flow a piece may carry all the time; what binds is the smallest of them",
  ],
  [
    "point of connection",
    "where a source enters the irrigation system: meter, backflow preventer, master valve, pump, sensor",
  ],
  ["station", "one remote control valve and what it waters"],
  ["expected flow", "what a station should use now: learned, else entered, else design"],
  ["hold-off", "seconds after a valve turned in which nothing is judged"],
  ["persistence", "seconds for which a reading must stay beyond a limit before it counts"],
  ["lockout", "a station, main or connection taken out of service until someone clears it"],
  ["shortfall", "minutes that a night could not water"],
  ["rain delay", "a hold: off until a date, or with no end"],
  ["water budget", "seasonal percent for the minutes; cubic metres a month for a source"],
  ["find and isolate", "after a trip: everything shut, the main tried, then each station alone"],
  ["bench", "Presa's simulated site and controller, to try a configuration on"],
];

/** Keys that work here, and the words of the house. Open, it hears every key first. */
export function KeyHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog title="Keys and words" open={open} onClose={onClose} wide>
      <div className="grid gap-x-10 gap-y-4 md:grid-cols-2">
        <section aria-label="Keys">
          <h3 className="text-lg mb-1">Keys</h3>
          <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5">
            {KEYS.map(([k, words]) => (
              <div key={k} className="contents">
                <dt>
                  <kbd className="kbd kbd-sm text-xs">{k}</kbd>
                </dt>
                <dd>{words}</dd>
              </div>
            ))}
          </dl>
        </section>
        <section aria-label="Words">
          <h3 className="text-lg mb-1">Words</h3>
          <dl className="grid gap-y-1">
            {WORDS.map(([word, what]) => (
              <div key={word}>
                <dt className="inline font-semibold">{word}: </dt>
                <dd className="inline">{what}.</dd>
              </div>
            ))}
          </dl>
        </section>
      </div>
      <p className="text-xs text-faint mt-4 max-w-prose">
        Presa opens no real valves: it computes settings, proves them on the bench and keeps the record. Its figures
        help a qualified person decide; they do not replace local codes, the maker's data sheet or an engineer.
      </p>
    </Dialog>
  );
}
