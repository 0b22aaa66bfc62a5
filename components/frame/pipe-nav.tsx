"use client";
import Link from "next/link";
import { usePathname } from "next/navigation";
import { useWorkspace } from "@/components/draft/site-draft";
import { useFittings } from "@/components/draft/site-log";
import { classes } from "@/components/kit/classes";
import { useConventions } from "@/components/kit/conventions";
import type { Fitting } from "@/core/summary/fitting";
import { SCREENS, type Screen } from "@/core/summary/progress";
import { FittingPicture } from "./fitting";

export const SCREEN_NAMES: Record<Screen, string> = {
  waterworks: "Waterworks",
  sensors: "Sensors",
  stations: "Stations",
  programs: "Programs",
  learn: "Learn",
  night: "Night",
  limits: "Limits",
  bench: "Bench",
  controllers: "Controllers",
  log: "Log",
};
const STATE_WORDS: Record<Fitting["state"], string> = {
  empty: "empty",
  half: "entered",
  full: "proven",
  cracked: "was proven",
};

/** The work as one drawn pipe, in the order in which it is done; each fitting is a screen. */
export function PipeNav() {
  const { siteId } = useWorkspace("siteId");
  const { dateAt } = useConventions();
  const fittings = useFittings();
  const path = usePathname();
  const words = (f: Fitting): string => {
    const seal = f.seal ? ` Sealed ${dateAt(f.seal.at)}${f.seal.by ? ` by ${f.seal.by}` : ""}: ${f.seal.how}.` : "";
    return f.seal && f.state === "full" ? seal.trim() : `${f.why}${seal}`;
  };
  return (
    <nav aria-label="Steps of the work" className="no-print min-w-0 grow overflow-x-auto">
      <ol className="relative grid grid-flow-col auto-cols-[minmax(4.6rem,1fr)] max-w-[56rem]">
        <li aria-hidden className="absolute inset-x-0 top-[11px] h-[10px] border-y border-base-content bg-base-200" />
        {SCREENS.map((screen, i) => {
          const here = path.endsWith(`/${screen}`);
          const fitting = fittings[screen];
          return (
            <li key={screen} className="relative">
              <Link
                href={`/sites/${siteId}/${screen}`}
                aria-current={here ? "page" : undefined}
                title={`${(i + 1) % 10} ${SCREEN_NAMES[screen]}, ${STATE_WORDS[fitting.state]}. ${words(fitting)}`}
                className="group flex flex-col items-center outline-offset-[-2px]"
              >
                <FittingPicture fitting={fitting} here={here} />
                <span
                  className={classes(
                    "text-xs leading-5 border-b-[3px] px-1",
                    here ? "font-semibold border-base-content" : "border-transparent group-hover:border-base-300",
                  )}
                >
                  {SCREEN_NAMES[screen]}
                </span>
                <span className="sr-only">
                  {STATE_WORDS[fitting.state]}. {words(fitting)}
                </span>
              </Link>
            </li>
          );
        })}
      </ol>
    </nav>
  );
}
