"use client";
import Link from "next/link";
import { usePathname } from "next/navigation";
import { useWorkspace } from "@/components/draft/site-draft";
import { useFittings } from "@/components/draft/site-log";
import { SCREENS } from "@/core/summary/progress";

/** What is to be done next on a screen of the site, until its work is done. */
export function NextLine() {
  const { siteId } = useWorkspace("siteId");
  const fittings = useFittings();
  const path = usePathname();
  const screen = SCREENS.find((s) => path === `/sites/${siteId}/${s}`);
  const next = screen && fittings[screen].next;
  if (!next) return null;
  return (
    <p className="no-print -mt-1.5 mb-2 truncate text-sm" title={next.words}>
      <span className="text-faint">Next: </span>
      {next.at === screen ? (
        next.words
      ) : (
        <Link className="underline underline-offset-2" href={`/sites/${siteId}/${next.at}`}>
          {next.words}
        </Link>
      )}
    </p>
  );
}
