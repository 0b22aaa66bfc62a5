"use client";
import { Mark } from "@/components/kit/notice";
import { ButtonLink } from "@/components/kit/button";
import { useMemo } from "react";
import { usePressures } from "@/components/draft/use-pressures";
import { useNight, useWorkspace } from "@/components/draft/site-draft";
import { check } from "@/core/check/check";
import type { Severity } from "@/core/check/finding";

const MARK: Record<Severity, [string, string]> = {
  error: ["", "text-error"],
  warning: ["", "text-warning"],
  note: ["", "faint"],
};

function screenOf(path: string, code: string): string {
  if (code.startsWith("pressure")) return "waterworks#pressure";
  if (
    [
      "addressTwice",
      "serialTwice",
      "overCurrent",
      "acOnBattery",
      "coilUnknown",
      "latchingOnMains",
      "wireReading",
    ].includes(code)
  )
    return "waterworks#devices";
  if (code.startsWith("unlinked")) return "waterworks";
  if (/sensor/i.test(code)) return "sensors";
  if (path.startsWith("stations")) return "stations";
  if (path.startsWith("programs") || path.startsWith("controllers") || path.startsWith("site")) return "programs";
  return path.startsWith("policy") ? "limits" : "waterworks";
}

/** Everything wrong, doubtful or worth knowing, with the way to where it is mended. */
export function FindingsScreen() {
  const { draft, siteId } = useWorkspace("draft", "siteId");
  const night = useNight();
  const pressures = usePressures(draft, null);
  const findings = useMemo(
    () => [...check(draft), ...(pressures.state === "done" ? pressures.findings : [])],
    [draft, pressures],
  );
  const order: Severity[] = ["error", "warning", "note"];
  return (
    <>
      <h2 className="text-xl mb-2">Findings</h2>
      {pressures.state === "working" && (
        <p className="text-faint" role="status">
          Solving the network for pressure under load…
        </p>
      )}
      {pressures.state === "failed" && (
        <p role="alert" className="text-error">
          The network could not be solved: {pressures.message}
        </p>
      )}
      {findings.length === 0 && pressures.state !== "working" && <p>Nothing is wrong or doubtful.</p>}
      <ul className="max-w-4xl">
        {order
          .flatMap((severity) => findings.filter((f) => f.severity === severity))
          .map((f) => (
            <li key={`${f.code}${f.path}${f.subjectId}`} className="flex gap-3 py-1 border-b border-base-300">
              <span className={`${MARK[f.severity][1]} font-semibold w-24 shrink-0`}>
                {MARK[f.severity][0]} {f.severity}
              </span>
              <span className="grow">{f.message}</span>
              <ButtonLink rank="quiet" href={`/sites/${siteId}/${screenOf(f.path, f.code)}`}>
                Go there
              </ButtonLink>
            </li>
          ))}
      </ul>
      {night && night.plan.warnings.length > 0 && (
        <>
          <h3 className="text-lg mt-5 mb-1">On the night shown</h3>
          <ul className="max-w-4xl">
            {night.plan.warnings.map((w) => (
              <li key={`${w.code}${w.subjectId}${w.at}`} className="py-1 border-b border-base-300">
                <span className="text-warning font-semibold">
                  <Mark tone="caution" />{" "}
                </span>
                {w.message}
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}
