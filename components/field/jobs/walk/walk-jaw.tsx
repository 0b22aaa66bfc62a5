"use client";
import { useTranslations } from "next-intl";
import type { SetLimits } from "@/core/judge/set-limits";
import type { Station } from "@/core/site-file/schema";
import { useSiteHere } from "../../site-here";

const W = 358;
const H = 62;
const MID = 30;
/** The row reaches so far on a log scale of reading ÷ expected. */
const REACH = 0.5;

function verdictOf(lpm: number, lowLpm: number, highLpm: number): "low" | "high" | "within" {
  if (lpm < lowLpm) return "low";
  return lpm > highLpm ? "high" : "within";
}

/** A reading against its row of the jaw: what is known of the station, its two limits, and what it reads. */
export function WalkJaw({
  station: { learned, enteredFlowLpm, designFlowLpm },
  limits: { expectedLpm, lowLpm, highLpm, judged },
  readLpm,
}: {
  station: Station;
  limits: SetLimits;
  readLpm: number | null;
}) {
  const t = useTranslations("walk");
  const { conventions } = useSiteHere();
  const flow = (lpm: number): string => conventions.quantity(lpm, "flow");
  if (!judged || expectedLpm <= 0) return <p className="text-faint">{t("notWatched")}</p>;
  const x = (lpm: number): number => {
    const ratio = Math.max(REACH, Math.min(1 / REACH, lpm / expectedLpm));
    return W / 2 + (Math.log(ratio) / Math.log(1 / REACH)) * (W / 2 - 24);
  };
  const verdict = readLpm === null ? null : verdictOf(readLpm, lowLpm, highLpm);
  const words = [
    t("jaw", { expected: flow(expectedLpm), low: flow(lowLpm), high: flow(highLpm) }),
    readLpm !== null && verdict ? t("jawRead", { read: flow(readLpm), verdict }) : null,
  ]
    .filter(Boolean)
    .join(". ");
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="mt-1 w-full" role="img" aria-label={words}>
      <rect x={x(lowLpm)} width={x(highLpm) - x(lowLpm)} y={MID - 11} height="22" fill="var(--color-secondary)" />
      {[lowLpm, highLpm].map((lpm) => (
        <line key={lpm} x1={x(lpm)} x2={x(lpm)} y1={MID - 16} y2={MID + 16} stroke="var(--ink)" strokeWidth="3" />
      ))}
      <line x1={x(expectedLpm)} x2={x(expectedLpm)} y1={MID - 20} y2={MID + 16} stroke="var(--ink)" />
      {learned && (
        <rect
          x={x(learned.meanLpm - 2 * learned.sdLpm)}
          width={Math.max(6, x(learned.meanLpm + 2 * learned.sdLpm) - x(learned.meanLpm - 2 * learned.sdLpm))}
          y={MID - 5}
          height="10"
          rx="5"
          fill="var(--water)"
        />
      )}
      {enteredFlowLpm !== undefined && (
        <rect x={x(enteredFlowLpm) - 4.5} y={MID - 4.5} width="9" height="9" fill="none" stroke="var(--ink)" />
      )}
      {designFlowLpm !== undefined && (
        <path d={`M${x(designFlowLpm)} ${MID - 6}l6 6l-6 6l-6 -6Z`} fill="none" stroke="var(--ink)" />
      )}
      {readLpm !== null && (
        <path
          d={`M${x(readLpm)} ${MID - 9}l9 18h-18Z`}
          fill={verdict === "within" ? "var(--ink)" : "var(--alarm)"}
          stroke="var(--paper)"
        />
      )}
      <text x={x(lowLpm)} y={H - 2} fontSize="13" textAnchor="middle" fill="var(--faint)">
        {t("trips", { flow: conventions.figure(lowLpm, "flow") })}
      </text>
      <text x={x(highLpm)} y={H - 2} fontSize="13" textAnchor="middle" fill="var(--faint)">
        {t("trips", { flow: conventions.figure(highLpm, "flow") })}
      </text>
    </svg>
  );
}
