"use client";
import { Scroller } from "@/components/kit/scroller";
import { useConventions } from "@/components/kit/conventions";
import { Mark } from "@/components/kit/notice";
import { Check, Plus, Square, Timer, X } from "lucide-react";
import { Table } from "@/components/kit/table";
import { Button, IconButton } from "@/components/kit/button";
import type { Patch } from "@/core/site-file/patch";
import { patched } from "@/core/site-file/patch";
import { useEffect, useState } from "react";
import { NumberField } from "@/components/kit/fields";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import { useSave } from "@/components/draft/use-save";
import { replaceDevice } from "@/components/draft/waterworks-edits";
import { type ProofRefusal, type Proof, prove, type ProvingRow } from "@/core/sensors/proving";
import type { Device, FlowSensor } from "@/core/site-file/schema";
import { showNumber, showQuantity, toShown, type UnitSystem, unitLabel } from "@/core/units/units";

type Row = Patch<ProvingRow>;

function refusalWords(r: ProofRefusal): string {
  const at = "row" in r && r.row !== undefined ? `Test ${r.row + 1}: ` : "";
  switch (r.code) {
    case "noTests":
      return "Enter a test first.";
    case "meterBackwards":
      return `${at}the meter's end must be above its start.`;
    case "testNotPositive":
      return `${at}seconds, volume and signal must all be above 0.`;
    case "noSignal":
      return `${at}note the frequency, or count the pulses over the time. None while water flows: broken wire, reversed polarity or a seized wheel.`;
    case "kMissing":
      return "The present K is needed.";
    case "flowsTooClose":
      return "The tests' flows lie within 1.5 × of each other; a line through them means nothing. Add a test at another flow.";
    case "slopeNotPositive":
      return "The fitted slope is not above 0. Check that frequencies and meter readings belong together.";
    case "residualTooLarge":
      return `${at}off by ${r.worstPercent.toFixed(1)} % of its meter; over ${r.limit} % these tests are not one sensor on one meter. Was the flow steady, and nothing else open? Repeat it, or take it out.`;
    case "factorTooLarge":
      return `The constant would change ${r.factor > 1 ? r.factor.toFixed(1) : (1 / r.factor).toFixed(1)} ×. That is a wrong sheet or a wrong bore, not a calibration: enter K and inside diameter as the data sheet gives them first.`;
    case "offsetTooLarge":
      return `An offset of ${r.offsetHz.toFixed(1)} Hz is not credible (${r.limit.toFixed(1)} Hz at most). Check that frequencies and meter readings belong together.`;
    case "tooFewPulses":
      return `${at}${showNumber(r.pulses)} pulses count too coarsely; run until at least ${r.limit} have passed.`;
  }
}

/** Proves a sensor against the water meter: rows as noted in the field, the fit, its residuals; accepting it makes a revision. */
export function ProvingPanel({ sensor }: { sensor: FlowSensor }) {
  const { edit, units, canEdit, userName, saving } = useWorkspace("edit", "units", "canEdit", "userName", "saving");
  const { dateAt } = useConventions();
  const { save } = useSave();
  const changes = useChanges();
  const [rows, setRows] = useState<Row[]>([{}]);
  const complete = rows.filter(
    (r): r is ProvingRow =>
      r.startL !== undefined &&
      r.endL !== undefined &&
      r.seconds !== undefined &&
      (r.hz !== undefined || r.pulses !== undefined),
  );
  const outcome = complete.length > 0 ? prove(sensor, complete) : null;
  const proof: Proof | null = outcome?.ok ? outcome.value : null;
  const change = (i: number, values: Row): void =>
    setRows((known) => known.map((r, n) => (n === i ? patched(r, values) : r)));
  const accept = async (): Promise<void> => {
    if (!proof) return;
    const proving = {
      at: new Date().toISOString(),
      by: userName,
      worstPercent: Math.min(1000, Number(proof.worstPercent.toFixed(6))),
      tests: proof.tests.map(({ hz, litres, seconds }) => ({ hz, litres, seconds })),
    };
    edit(
      replaceDevice(
        sensor.id,
        <T extends Device>(d: T): T =>
          d.kind === "flowSensor" ? { ...d, output: proof.output, provings: [...(d.provings ?? []), proving] } : d,
      ),
    );
    if (await save(`${sensor.name ?? "Flow sensor"} proved against the meter`)) setRows([{}]);
  };
  return (
    <section aria-label="Proving" className="mt-5">
      <h3 className="text-lg">Prove it against the water meter</h3>
      <p className="text-sm text-faint max-w-prose">
        Run a steady flow with nothing else open. Read the meter at start and end over a measured time; note the
        frequency, or count the pulses. One test scales the constant; two or more at flows at least 1.5 × apart give K
        and offset.
      </p>
      <Scroller>
        <Table className="max-w-4xl mt-1">
          <thead>
            <tr>
              <th>Test</th>
              <th className="text-right">Meter at start, {unitLabel("volume", units)}</th>
              <th className="text-right">at end, {unitLabel("volume", units)}</th>
              <th className="text-right">Time, s</th>
              <th className="text-right">Frequency, Hz</th>
              <th className="text-right">or pulses</th>
              <th className="text-right">Metered</th>
              <th className="text-right">Read − metered</th>
              <th>
                <span className="sr-only">Take out</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r, i) => {
              const tested = proof?.tests[complete.indexOf(r as ProvingRow)];
              const metered =
                r.startL !== undefined && r.endL !== undefined && r.seconds
                  ? ((r.endL - r.startL) / r.seconds) * 60
                  : null;
              return (
                // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
                <tr key={i}>
                  <td>{i + 1}</td>
                  <td>
                    <NumberField
                      hideLabel
                      label={`Test ${i + 1}, meter at start`}
                      value={r.startL}
                      quantity="volume"
                      system={units}
                      min={0}
                      max={1e10}
                      disabled={!canEdit}
                      onCommit={(v) => change(i, { startL: v })}
                    />
                  </td>
                  <td>
                    <NumberField
                      hideLabel
                      label={`Test ${i + 1}, meter at end`}
                      value={r.endL}
                      quantity="volume"
                      system={units}
                      min={0}
                      max={1e10}
                      disabled={!canEdit}
                      onCommit={(v) => change(i, { endL: v })}
                    />
                  </td>
                  <td className="min-w-32">
                    <div className="flex gap-1">
                      <NumberField
                        hideLabel
                        label={`Test ${i + 1}, seconds`}
                        value={r.seconds}
                        min={1}
                        max={86_400}
                        disabled={!canEdit}
                        onCommit={(v) => change(i, { seconds: v })}
                      />
                      {canEdit && (
                        <Stopwatch label={`Stopwatch of test ${i + 1}`} onStop={(s) => change(i, { seconds: s })} />
                      )}
                    </div>
                  </td>
                  <td>
                    <NumberField
                      hideLabel
                      label={`Test ${i + 1}, Hz`}
                      value={r.hz}
                      min={0.001}
                      max={10_000}
                      disabled={!canEdit || r.pulses !== undefined}
                      onCommit={(v) => change(i, { hz: v })}
                    />
                  </td>
                  <td>
                    <NumberField
                      hideLabel
                      label={`Test ${i + 1}, pulses`}
                      value={r.pulses}
                      min={1}
                      max={1e9}
                      whole
                      disabled={!canEdit || r.hz !== undefined}
                      onCommit={(v) => change(i, { pulses: v })}
                    />
                  </td>
                  <td className="text-right">
                    {metered !== null && metered > 0 ? showQuantity(metered, "flow", units, 1) : ""}
                  </td>
                  <td className="text-right">
                    {tested
                      ? `${showQuantity(tested.fittedLpm - tested.meteredLpm, "flow", units, 2)}, ${tested.residualPercent.toFixed(2)} %`
                      : ""}
                  </td>
                  <td>
                    {canEdit && rows.length > 1 && (
                      <IconButton
                        label={`Take test ${i + 1} out`}
                        icon={X}
                        onClick={() => setRows(rows.filter((_, n) => n !== i))}
                      />
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </Table>
      </Scroller>
      {canEdit && (
        <Button icon={Plus} className="mt-2" onClick={() => setRows([...rows, {}])}>
          test
        </Button>
      )}
      {outcome && !outcome.ok && (
        <p role="alert" className="text-error mt-1 max-w-prose">
          <Mark tone="alarm" /> {refusalWords(outcome.refusal)}
        </p>
      )}
      {proof && (
        <div className="mt-2 flex flex-wrap items-start gap-6">
          <div>
            <p>
              {fitWords(sensor, proof, units)} Was{" "}
              {sensor.output.type === "pulse"
                ? showQuantity(sensor.output.litresPerPulse, "volume", units, 4)
                : `K ${sensor.output.kGpm.toPrecision(4)}, offset ${sensor.output.offsetHz} Hz`}
              : readings change by{" "}
              <strong>
                {proof.factor >= 1 ? "+" : ""}
                {((proof.factor - 1) * 100).toFixed(1)} %
              </strong>
              . Worst test {proof.worstPercent.toFixed(2)} % of its meter
              {proof.method === "onePoint" ? " (one point: scaled, offset kept)" : ""}.
            </p>
            {canEdit && (
              <Button rank="main" className="mt-1" disabled={saving} onClick={accept}>
                Accept and save as a revision
              </Button>
            )}
            {canEdit && changes.length > 0 && (
              <p className="text-sm text-faint">
                It saves your {changes.length} other unsaved change{changes.length > 1 ? "s" : ""} with it.
              </p>
            )}
            <p className="text-sm text-faint max-w-prose mt-1">
              Flows learned with the old constant turn stale: learn them again.
            </p>
          </div>
          <Residuals proof={proof} units={units} />
        </div>
      )}
      {(sensor.provings ?? []).length > 0 && (
        <ul className="text-sm mt-3" aria-label="Provings">
          {[...(sensor.provings ?? [])].reverse().map((p) => (
            <li key={p.at}>
              <Check className="inline size-[1em] align-[-0.12em]" aria-hidden /> Proved {dateAt(p.at)} by {p.by}:{" "}
              {p.tests.length} test{p.tests.length > 1 ? "s" : ""} from{" "}
              {showQuantity(Math.min(...p.tests.map((t) => (t.litres / t.seconds) * 60)), "flow", units)} to{" "}
              {showQuantity(Math.max(...p.tests.map((t) => (t.litres / t.seconds) * 60)), "flow", units)}, worst{" "}
              {p.worstPercent.toFixed(2)} %.
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

function fitWords(sensor: FlowSensor, proof: Proof, units: UnitSystem): React.ReactNode {
  const { output } = proof;
  if (output.type === "pulse")
    return (
      <>
        <strong>{showQuantity(output.litresPerPulse, "volume", units, 4)} a pulse</strong> for{" "}
        {sensor.name ?? "this sensor"}.
      </>
    );
  return (
    <>
      K <strong>{output.kGpm.toPrecision(5)}</strong> US gal/min per Hz, offset{" "}
      <strong>{output.offsetHz.toFixed(3)} Hz</strong>.
    </>
  );
}

/** What each test is off by, at its flow: a fit is one sensor when these scatter about 0. */
function Residuals({ proof, units }: { proof: Proof; units: UnitSystem }) {
  const [W, H] = [300, 130];
  const flows = proof.tests.map((t) => t.meteredLpm);
  const most = Math.max(...flows) * 1.12;
  const reach = Math.max(1, ...proof.tests.map((t) => Math.abs(t.residualPercent))) * 1.3;
  const x = (q: number): number => 34 + (q / most) * (W - 44);
  const y = (p: number): number => 58 - (p / reach) * 46;
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      className="w-80"
      role="img"
      aria-label={`Residuals: ${proof.tests.map((t) => `${t.residualPercent.toFixed(2)} % at ${showQuantity(t.meteredLpm, "flow", units)}`).join(", ")}`}
    >
      <line x1="34" x2={W - 6} y1={y(0)} y2={y(0)} stroke="var(--ink)" />
      {[-reach / 1.3, reach / 1.3].map((p) => (
        <g key={p}>
          <line x1="34" x2={W - 6} y1={y(p)} y2={y(p)} stroke="var(--hair)" />
          <text x="30" y={y(p) + 4} fontSize="12" textAnchor="end" fill="var(--faint)">
            {p > 0 ? "+" : ""}
            {p.toFixed(1)}
          </text>
        </g>
      ))}
      {proof.tests.map((t, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
        <g key={`${t.hz}-${i}`}>
          <line
            x1={x(t.meteredLpm)}
            x2={x(t.meteredLpm)}
            y1={y(0)}
            y2={y(t.residualPercent)}
            stroke="var(--water)"
            strokeWidth="2"
          />
          <circle cx={x(t.meteredLpm)} cy={y(t.residualPercent)} r="4.5" fill="var(--water)" />
          <text x={x(t.meteredLpm)} y={H - 14} fontSize="12" textAnchor="middle" fill="var(--faint)">
            {showNumber(toShown(t.meteredLpm, "flow", units))}
          </text>
        </g>
      ))}
      <text x="2" y="10" fontSize="12" fill="var(--faint)">
        % read − metered
      </text>
      <text x={W - 6} y={H - 2} fontSize="12" textAnchor="end" fill="var(--faint)">
        metered, {unitLabel("flow", units)}
      </text>
    </svg>
  );
}

/** For the field: press at the meter's mark, press again at the next. */
function Stopwatch({ label, onStop }: { label: string; onStop: (seconds: number) => void }) {
  const [began, setBegan] = useState<number | null>(null);
  const [now, setNow] = useState(0);
  useEffect(() => {
    if (began === null) return;
    const timer = setInterval(() => setNow(performance.now()), 200);
    return () => clearInterval(timer);
  }, [began]);
  const press = (): void => {
    if (began === null) {
      setNow(performance.now());
      setBegan(performance.now());
      return;
    }
    onStop(Number(((performance.now() - began) / 1000).toFixed(1)));
    setBegan(null);
  };
  return (
    <Button
      icon={began === null ? Timer : Square}
      className="px-2 tabular-nums"
      aria-label={began === null ? `${label}: start` : `${label}: stop`}
      onClick={press}
    >
      {began === null ? null : Math.max(0, Math.floor((now - began) / 1000))}
    </Button>
  );
}
