"use client";
import { useTranslations } from "next-intl";
import { useEffect, useState } from "react";
import { classes } from "@/components/kit/classes";
import { Big } from "../../parts";
import { useKept } from "../../use-kept";

/**
 * Times between two marks of a meter. It runs on by the phone's clock while one looks elsewhere, or closes the page.
 *
 * @param draft where it is kept @param seconds what was measured @param onStop with the seconds, to a tenth
 */
export function Stopwatch({
  draft,
  seconds,
  onStop,
}: {
  draft: string;
  seconds: number | null;
  onStop: (seconds: number | null) => void;
}) {
  const t = useTranslations("learn");
  const [began, setBegan] = useKept<number | null>(draft, null);
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    if (began === null) return;
    const timer = setInterval(() => setNow(Date.now()), 100);
    return () => clearInterval(timer);
  }, [began]);
  const press = (): void => {
    const at = Date.now();
    setNow(at);
    if (began === null) {
      onStop(null);
      setBegan(at);
    } else {
      onStop(Math.round((at - began) / 100) / 10);
      setBegan(null);
    }
  };
  const shown = began === null ? (seconds ?? 0) : Math.max(0, now - began) / 1000;
  return (
    <div className="my-2 grid grid-cols-[1fr_auto] items-center gap-4">
      <Big
        rank={began === null ? "main" : "danger"}
        className={classes("min-h-24 text-2xl")}
        aria-pressed={began !== null}
        onClick={press}
      >
        {began === null ? t("start") : t("stop")}
      </Big>
      <p role="timer" aria-label={t("watch")} className="min-w-32 text-right text-3xl font-semibold tabular-nums">
        {shown.toFixed(1)} s
      </p>
    </div>
  );
}
