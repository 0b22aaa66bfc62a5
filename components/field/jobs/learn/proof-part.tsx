"use client";
import { X } from "lucide-react";
import { useTranslations } from "next-intl";
import { useMemo, useState } from "react";
import { IconButton } from "@/components/kit/button";
import { ChoiceField, NumberField } from "@/components/kit/fields";
import { Problem } from "@/components/kit/notice";
import { siteSensors } from "@/core/network/sensing";
import { waterworks } from "@/core/network/waterworks";
import { prove, type ProvingRow } from "@/core/sensors/proving";
import type { FlowSensor } from "@/core/site-file/schema";
import { Big, Part } from "../../parts";
import { useSiteHere } from "../../site-here";
import { useKept } from "../../use-kept";
import { Stopwatch } from "./stopwatch";

/** A test as it is being noted; volumes in L. */
type Row = { [K in keyof ProvingRow]-?: number | null };
const EMPTY: Row = { startL: null, endL: null, seconds: null, hz: null, pulses: null };

/** Proves a flow sensor against the water meter, with a stopwatch and a keypad. */
export function ProofPart() {
  const t = useTranslations("learn");
  const { siteId, site } = useSiteHere();
  const sensors = useMemo(() => siteSensors(waterworks(site.file)), [site.file]);
  const [at, setAt] = useKept<string | null>(`learn ${siteId} sensor`, null);
  const chosen = sensors.find((s) => s.sensor.id === at) ?? sensors[0];
  if (!chosen) return <p className="py-3 text-lg">{t("noSensor")}</p>;
  return (
    <>
      <ChoiceField
        label={t("sensor")}
        value={chosen.sensor.id}
        options={sensors.map((s) => [s.sensor.id, `${s.sensor.name ?? t("sensor")}, ${s.ownerName}`] as const)}
        onCommit={setAt}
      />
      <ProofOf
        key={chosen.sensor.id}
        sensor={chosen.sensor}
        name={`${chosen.sensor.name ?? t("sensor")}, ${chosen.ownerName}`}
      />
    </>
  );
}

const rowOf = ({ startL, endL, seconds, hz, pulses }: Row): ProvingRow | null =>
  startL === null || endL === null || seconds === null || (hz === null && pulses === null)
    ? null
    : { startL, endL, seconds, ...(hz === null ? { pulses: pulses as number } : { hz }) };

function ProofOf({ sensor, name }: { sensor: FlowSensor; name: string }) {
  const t = useTranslations("learn");
  const { siteId, conventions, mayEnter, enter } = useSiteHere();
  const draft = `learn ${siteId} proof ${sensor.id}`;
  const [rows, setRows, read] = useKept<Row[]>(draft, [EMPTY]);
  const [kept, setKept] = useState(false);
  const last = sensor.provings?.at(-1);
  const whole = rows.flatMap((r) => rowOf(r) ?? []);
  const outcome = whole.length > 0 ? prove(sensor, whole) : null;
  if (!read) return null;
  const change = (i: number, row: Row): void => {
    setKept(false);
    setRows(rows.map((r, k) => (k === i ? row : r)));
  };
  const keep = (): void =>
    void enter({ kind: "proof", sensorId: sensor.id, against: sensor.output, rows: whole }, name, draft).then(() => {
      setRows([EMPTY]);
      setKept(true);
    });
  return (
    <>
      <p className="py-2 text-faint">
        {last ? t("provedLast", { date: conventions.dateAt(last.at), name: last.by }) : t("neverProved")}
      </p>
      <p className="text-faint">{t("proveHow")}</p>
      {mayEnter &&
        rows.map((row, i) => (
          <TestForm
            // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
            key={i}
            number={i + 1}
            draft={`${draft} watch ${i}`}
            row={row}
            onChange={(r) => change(i, r)}
            onRemove={rows.length > 1 ? () => setRows(rows.filter((_, k) => k !== i)) : null}
          />
        ))}
      {mayEnter && (
        <Big className="mt-2 w-full" onClick={() => setRows([...rows, EMPTY])}>
          {t("addTest")}
        </Big>
      )}
      {outcome && !outcome.ok && <Problem className="py-2">{t(`refused.${outcome.refusal.code}`)}</Problem>}
      {outcome?.ok && (
        <div className="py-3">
          <p role="status" className="mb-2 text-lg">
            {t("proofGood", {
              change: `${outcome.value.factor >= 1 ? "+" : ""}${((outcome.value.factor - 1) * 100).toFixed(1)}`,
              worst: outcome.value.worstPercent.toFixed(2),
            })}
          </p>
          <Big rank="main" className="min-h-16 w-full" onClick={keep}>
            {t("keepProof")}
          </Big>
        </div>
      )}
      {kept && (
        <p role="status" className="py-2 text-lg">
          {t("proofKept")}
        </p>
      )}
    </>
  );
}

function TestForm({
  number,
  draft,
  row,
  onChange,
  onRemove,
}: {
  number: number;
  draft: string;
  row: Row;
  onChange: (row: Row) => void;
  onRemove: (() => void) | null;
}) {
  const t = useTranslations("learn");
  const { conventions } = useSiteHere();
  const volume = { quantity: "volume" as const, system: conventions.system, min: 0, max: 1e10 };
  const metered =
    row.startL !== null && row.endL !== null && row.seconds ? (60 * (row.endL - row.startL)) / row.seconds : null;
  return (
    <Part title={t("test", { number })}>
      <div className="grid grid-cols-2 gap-3">
        <NumberField
          label={t("meterStart")}
          {...volume}
          value={row.startL ?? undefined}
          onCommit={(v) => onChange({ ...row, startL: v ?? null })}
        />
        <NumberField
          label={t("meterEnd")}
          {...volume}
          value={row.endL ?? undefined}
          onCommit={(v) => onChange({ ...row, endL: v ?? null })}
        />
      </div>
      <Stopwatch draft={draft} seconds={row.seconds} onStop={(seconds) => onChange({ ...row, seconds })} />
      <div className="grid grid-cols-3 gap-3">
        <NumberField
          label={t("seconds")}
          unit="s"
          value={row.seconds ?? undefined}
          min={1}
          max={86_400}
          onCommit={(v) => onChange({ ...row, seconds: v ?? null })}
        />
        <NumberField
          label={t("hz")}
          unit="Hz"
          value={row.hz ?? undefined}
          min={0.001}
          max={10_000}
          disabled={row.pulses !== null}
          onCommit={(v) => onChange({ ...row, hz: v ?? null })}
        />
        <NumberField
          label={t("pulses")}
          value={row.pulses ?? undefined}
          min={1}
          max={1e9}
          whole
          disabled={row.hz !== null}
          onCommit={(v) => onChange({ ...row, pulses: v ?? null })}
        />
      </div>
      <div className="flex min-h-12 items-center justify-between">
        <span>{metered !== null && metered > 0 && t("metered", { flow: conventions.quantity(metered, "flow") })}</span>
        {onRemove && <IconButton label={t("removeTest", { number })} icon={X} className="size-12" onClick={onRemove} />}
      </div>
    </Part>
  );
}
