"use client";
import Link from "next/link";
import { usePathname } from "next/navigation";
import { useWorkspace } from "@/components/draft/workspace";
import { type FittingState, SCREENS, type Screen } from "@/core/summary/progress";

export const SCREEN_NAMES: Record<Screen, string> = {
  waterworks: "Waterworks",
  sensors: "Sensors",
  stations: "Stations",
  programs: "Programs",
  learn: "Learn",
  night: "Night",
  limits: "Limits",
  bench: "Bench",
  log: "Log",
};
const STATE_WORDS: Record<FittingState, string> = { open: "open", proven: "proven", stale: "stale" };

/** The work as one drawn pipe; each fitting is a screen and shows its state in shape as well as colour. */
export function PipeNav() {
  const { siteId, fittings } = useWorkspace();
  const path = usePathname();
  return (
    <nav aria-label="Steps of the work" className="no-print overflow-x-auto">
      <ol className="grid grid-flow-col auto-cols-[minmax(5.5rem,1fr)] relative min-w-max sm:min-w-0">
        {SCREENS.map((screen, i) => {
          const here = path.endsWith(`/${screen}`);
          const { state, why } = fittings[screen];
          return (
            <li key={screen} className="relative">
              <Link
                href={`/sites/${siteId}/${screen}`}
                aria-current={here ? "page" : undefined}
                title={why}
                className="block text-center pb-1 hover:bg-base-200 focus-visible:bg-base-200"
              >
                <svg
                  viewBox="0 0 120 34"
                  preserveAspectRatio="none"
                  className="block w-full h-[30px]"
                  aria-hidden="true"
                >
                  <rect x="0" y="11" width="120" height="12" fill="var(--bed)" />
                  <line
                    x1="0"
                    x2="120"
                    y1="11"
                    y2="11"
                    stroke="var(--ink)"
                    strokeWidth="1.5"
                    vectorEffect="non-scaling-stroke"
                  />
                  <line
                    x1="0"
                    x2="120"
                    y1="23"
                    y2="23"
                    stroke="var(--ink)"
                    strokeWidth="1.5"
                    vectorEffect="non-scaling-stroke"
                  />
                </svg>
                <svg
                  viewBox="0 0 40 34"
                  className="absolute left-1/2 top-0 -translate-x-1/2 h-[30px] w-[36px]"
                  aria-hidden="true"
                >
                  <Fitting state={state} here={here} />
                </svg>
                <span
                  className={` leading-tight ${here ? "font-semibold underline decoration-2 underline-offset-4" : ""}`}
                >
                  {SCREEN_NAMES[screen]}
                </span>
                <span className="block text-xs text-faint leading-none">
                  <span aria-hidden="true">{i + 1} </span>
                  {STATE_WORDS[state]}
                </span>
              </Link>
            </li>
          );
        })}
      </ol>
    </nav>
  );
}

function Fitting({ state, here }: { state: FittingState; here: boolean }) {
  const fill = state === "proven" ? "var(--water)" : "var(--paper)";
  const stroke = state === "stale" ? "var(--caution)" : "var(--ink)";
  return (
    <g stroke={stroke} strokeWidth={here ? 2.6 : 1.6} fill={fill}>
      <rect x="8" y="5" width="4" height="24" />
      <rect x="28" y="5" width="4" height="24" />
      <rect x="12" y="8" width="16" height="18" />
      {state === "proven" && <path d="M15 17 l4 4 l7 -8" fill="none" stroke="var(--paper)" strokeWidth="2.4" />}
      {state === "stale" && <path d="M12 26 L28 8 L28 26 Z" fill={stroke} stroke="none" />}
    </g>
  );
}
