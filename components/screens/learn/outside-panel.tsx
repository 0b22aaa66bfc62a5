"use client";
import { Scroller } from "@/components/kit/scroller";
import { Mark } from "@/components/kit/notice";
import { DateField } from "@/components/kit/date-field";
import { FileButton } from "@/components/kit/file-button";
import { TextArea } from "@/components/kit/inputs";
import { Button } from "@/components/kit/button";
import { Table } from "@/components/kit/table";
import { useMemo, useState } from "react";
import { ChoiceField, NumberField } from "@/components/kit/fields";
import { fileStem, saveText } from "@/components/kit/save-file";
import { useWorkspace } from "@/components/draft/site-draft";
import { FLOW_UNITS, type FlowUnit } from "@/core/learn/flow-units";
import { learnFromReadings } from "@/core/learn/from-readings";
import type { LearnResult } from "@/core/learn/events";
import {
  LEARNED_COLUMNS,
  type LearnedColumn,
  learnedCsv,
  learnedSheet,
  parseLearnedCsv,
} from "@/core/learn/learned-csv";
import { READING_COLUMNS, type ReadingColumn, readingSeries, readingsSheet } from "@/core/learn/readings-sheet";
import type { SiteFile } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";
import type { OutsideRequest } from "@/contracts/learning";
import type { LearningState } from "../../data/use-learning";
import { VERDICT } from "./words";

const READING_WORDS: Record<ReadingColumn, string> = {
  time: "time",
  flow: "flow",
  pulses: "pulses since the line before",
  station: "station open",
  event: "mark, like open 12",
  skip: "not used",
};
const LEARNED_WORDS: Record<LearnedColumn, string> = {
  station: "station number",
  name: "station name",
  flow: "learned flow",
  sd: "standard deviation",
  skip: "not used",
};
const UNITS = (Object.keys(FLOW_UNITS) as FlowUnit[]).map((u) => [u, u] as const);

type Opened = {
  source: string;
  text: string;
  how: "list" | "readings";
  columns: string[];
  unit: FlowUnit;
  date: string;
  litresPerPulse: number | undefined;
};
type Preview = {
  problem: string | null;
  results: LearnResult[];
  sets: number;
  refused: { line: number; problem: string }[];
  note: string | null;
};

/** Learned flows and recorders' logs from outside, with what would come of them before anything does; and the same out. */
export function OutsidePanel({ learning, onTaken }: { learning: LearningState; onTaken: () => void }) {
  const { draft, units, canEdit, date } = useWorkspace("draft", "units", "canEdit", "date");
  const [opened, setOpened] = useState<Opened | null>(null);
  const [pasted, setPasted] = useState("");
  const preview = useMemo(() => (opened ? previewOf(draft, opened) : null), [draft, opened]);
  const open = (source: string, text: string): void => {
    const sheet = readingsSheet(text);
    const list = learnedSheet(text);
    // A log has a time; a list of flows has none.
    const how = sheet.ok && sheet.sheet.columns.includes("time") ? "readings" : "list";
    setOpened({
      source,
      text,
      how,
      columns: how === "readings" && sheet.ok ? sheet.sheet.columns : list.columns,
      unit: (how === "readings" && sheet.ok ? sheet.sheet.unit : list.unit) ?? (units === "us" ? "gal/min" : "L/min"),
      date,
      litresPerPulse: undefined,
    });
  };
  const as = (how: Opened["how"]): void => {
    if (!opened) return;
    const sheet = readingsSheet(opened.text);
    const found = sheet.ok ? sheet.sheet.columns : [];
    setOpened({
      ...opened,
      how,
      columns: how === "readings" ? found : learnedSheet(opened.text).columns,
    });
  };
  const take = async (): Promise<void> => {
    if (!opened) return;
    const { source, text, unit } = opened;
    const asked: OutsideRequest =
      opened.how === "list"
        ? { how: "list", source, text, unit, columns: opened.columns as LearnedColumn[] }
        : {
            how: "readings",
            source,
            text,
            unit,
            columns: opened.columns as ReadingColumn[],
            date: opened.date,
            ...(opened.litresPerPulse ? { litresPerPulse: opened.litresPerPulse } : {}),
          };
    if ((await learning.outside(asked)) !== null) {
      setOpened(null);
      setPasted("");
      onTaken();
    }
  };
  const headingsIn = (text: string, how: string): string[] =>
    how === "readings" ? headingsOf(text) : learnedSheet(text).headings;
  const headings = opened ? headingsIn(opened.text, opened.how) : [];
  const station = (id: string): string => {
    const s = draft.stations.find((x) => x.id === id);
    return s ? `${s.number} ${s.name}` : id;
  };
  return (
    <div className="grid lg:grid-cols-[minmax(0,1fr)_20rem] gap-x-8 gap-y-4">
      <section aria-label="In" className="min-w-0">
        <h3 className="text-lg">In</h3>
        {!opened && (
          <div className="max-w-prose">
            <p>
              A list of learned flows (station, flow), or a recorder's log (time, flow or pulses, which station was
              open). A log is run through the same test as the bench: hold-off, then the first steady window.
            </p>
            {canEdit ? (
              <>
                <FileButton
                  name="File of flows"
                  accept=".csv,.txt,.tsv,text/csv,text/plain"
                  className="my-2"
                  onFile={(f) =>
                    void f.text().then(
                      (t) => open(f.name, t),
                      () => learning.fail(`${f.name} could not be read.`),
                    )
                  }
                >
                  Choose a file
                </FileButton>
                <label className="block">
                  <span className="block text-sm text-faint">or paste it</span>
                  <TextArea
                    className="font-mono text-sm"
                    rows={5}
                    value={pasted}
                    onChange={(e) => setPasted(e.target.value)}
                    placeholder={"station,flow gal/min\n1,14.2\n2,9.8"}
                  />
                </label>
                <Button className="mt-1" disabled={pasted.trim() === ""} onClick={() => open("pasted", pasted)}>
                  Look at it
                </Button>
              </>
            ) : (
              <p className="text-faint">Your role may look but not bring flows in.</p>
            )}
          </div>
        )}
        {opened && preview && (
          <>
            <div className="flex flex-wrap items-end gap-3 mb-2">
              <p className="font-semibold self-center">{opened.source}</p>
              <div className="w-52">
                <ChoiceField
                  label="It is"
                  value={opened.how}
                  options={[
                    ["list", "a list of learned flows"],
                    ["readings", "a recorder's log"],
                  ]}
                  onCommit={as}
                />
              </div>
              <div className="w-28">
                <ChoiceField
                  label="Flow in"
                  value={opened.unit}
                  options={UNITS}
                  onCommit={(unit) => setOpened({ ...opened, unit })}
                />
              </div>
              {opened.how === "readings" && (
                <DateField
                  label="Date of times without one"
                  required
                  value={opened.date}
                  className="w-44"
                  onCommit={(v) => v && setOpened({ ...opened, date: v })}
                />
              )}
              {opened.how === "readings" && opened.columns.includes("pulses") && (
                <div className="w-32">
                  <NumberField
                    label="One pulse"
                    unit="L"
                    value={opened.litresPerPulse}
                    min={0.0001}
                    max={1e6}
                    onCommit={(litresPerPulse) => setOpened({ ...opened, litresPerPulse })}
                  />
                </div>
              )}
            </div>
            <fieldset className="flex flex-wrap gap-3 mb-2">
              <legend className="text-sm text-faint">What each column is</legend>
              {headings.map((h, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
                <div key={i} className="w-44">
                  <ChoiceField
                    label={h || `column ${i + 1}`}
                    value={opened.columns[i] ?? "skip"}
                    options={
                      opened.how === "readings"
                        ? READING_COLUMNS.map((c) => [c, READING_WORDS[c]] as const)
                        : LEARNED_COLUMNS.map((c) => [c, LEARNED_WORDS[c]] as const)
                    }
                    onCommit={(c) =>
                      setOpened({
                        ...opened,
                        // A column stands for one thing: who had it before is skipped.
                        columns: headings.map((_, k) => {
                          const had = opened.columns[k] ?? "skip";
                          if (k === i) return c;
                          return had === c ? "skip" : had;
                        }),
                      })
                    }
                  />
                </div>
              ))}
            </fieldset>
            {preview.problem ? (
              <p role="alert" className="text-error font-semibold">
                {preview.problem}
              </p>
            ) : (
              <>
                <p>
                  {preview.results.length} station{preview.results.length === 1 ? "" : "s"} would be proposed,{" "}
                  {preview.results.filter((r) => r.verdict === "accepted").length} accepted
                  {preview.sets > 0 ? `; ${preview.sets} set${preview.sets > 1 ? "s" : ""} that ran together` : ""}
                  {preview.refused.length > 0 ? (
                    <span className="text-error">
                      ; {preview.refused.length} line{preview.refused.length > 1 ? "s" : ""} refused
                    </span>
                  ) : (
                    ""
                  )}
                  .
                </p>
                {preview.note && (
                  <p className="text-warning font-semibold">
                    <Mark tone="caution" /> {preview.note}
                  </p>
                )}
                <Scroller className="max-h-80 my-1">
                  <Table>
                    <thead>
                      <tr>
                        <th>Station</th>
                        <th>Verdict</th>
                        <th className="text-right">Flow</th>
                        <th className="text-right">± s.d.</th>
                        <th className="text-right">Steady after</th>
                      </tr>
                    </thead>
                    <tbody>
                      {preview.results.map((r) => (
                        <tr key={r.stationId}>
                          <td>{station(r.stationId)}</td>
                          <td className={r.verdict === "accepted" ? "" : "text-error font-semibold"}>
                            {VERDICT[r.verdict]}
                          </td>
                          <td className="text-right font-semibold">{showQuantity(r.meanLpm, "flow", units, 1)}</td>
                          <td className="text-right">{showNumber((100 * r.sdLpm) / Math.max(1e-9, r.meanLpm), 1)} %</td>
                          <td className="text-right">{r.secondsToSteady === null ? "–" : `${r.secondsToSteady} s`}</td>
                        </tr>
                      ))}
                    </tbody>
                  </Table>
                </Scroller>
                {preview.refused.length > 0 && (
                  <ul className="text-error text-sm max-h-32 overflow-auto">
                    {preview.refused.slice(0, 50).map((r) => (
                      <li key={`${r.line}${r.problem}`}>
                        <Mark tone="alarm" /> line {r.line}: {r.problem}
                      </li>
                    ))}
                    {preview.refused.length > 50 && <li>and {preview.refused.length - 50} more</li>}
                  </ul>
                )}
              </>
            )}
            <div className="flex gap-2 mt-1">
              <Button
                rank="main"
                disabled={preview.problem !== null || preview.results.length + preview.sets === 0}
                onClick={() => void take()}
              >
                {preview.refused.length > 0 ? "Propose what is right" : "Propose them"}
              </Button>
              <Button onClick={() => setOpened(null)}>Leave it</Button>
            </div>
          </>
        )}
      </section>
      <section aria-label="Out">
        <h3 className="text-lg">Out</h3>
        <div className="flex flex-col items-start gap-2">
          <Button onClick={() => saveText(learnedCsv(draft), `${fileStem(draft)}-flows.csv`, "text/csv")}>
            Flow figures, CSV
          </Button>
          {learning.view.run && learning.view.results.some((r) => r.runId === learning.view.run?.id && r.traced) && (
            <a href={`${learning.base}/${learning.view.run.id}/readings`} download>
              Readings of the last run, CSV
            </a>
          )}
          <p className="text-sm text-faint">Both can be read back here.</p>
        </div>
      </section>
    </div>
  );
}

function headingsOf(text: string): string[] {
  const sheet = readingsSheet(text);
  return sheet.ok ? sheet.sheet.headings : [];
}

/** What an opened text would come to: the same functions that the server runs when it is taken. */
function previewOf(site: SiteFile, opened: Opened): Preview {
  const empty = { results: [], sets: 0, refused: [], note: null };
  if (opened.how === "list") {
    const read = parseLearnedCsv(site, opened.text, opened.unit, opened.columns as LearnedColumn[]);
    return read.ok
      ? { ...empty, problem: null, results: read.list.results, refused: read.list.refused }
      : { ...empty, problem: read.problem };
  }
  const sheet = readingsSheet(opened.text);
  if (!sheet.ok) return { ...empty, problem: sheet.problem };
  const made = readingSeries(site, sheet.sheet, {
    columns: opened.columns as ReadingColumn[],
    unit: opened.unit,
    date: opened.date,
    ...(opened.litresPerPulse ? { litresPerPulse: opened.litresPerPulse } : {}),
  });
  if (!made.ok) return { ...empty, problem: made.problem };
  const found = learnFromReadings(site, made.series, opened.litresPerPulse ?? null);
  return {
    problem: null,
    results: found.results,
    sets: found.sets.length,
    refused: made.series.refused,
    note: found.flowAtRest
      ? `It shows ${showNumber(found.restLpm ?? 0, 1)} L/min with everything closed. Find that before you believe its figures.`
      : null,
  };
}
