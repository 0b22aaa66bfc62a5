"use client";
import { useMemo, useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { useConventions } from "@/components/kit/conventions";
import { useWidth } from "@/components/kit/use-width";
import { Braid } from "@/components/pictures/braid/braid";
import { braidOf, noEarlierThan } from "@/components/pictures/braid/braid-data";
import type { SiteFile } from "@/core/site-file/schema";
import type { NightAnswer } from "@/core/summary/night-answer";

/** Two nights of a site, as it is and otherwise, at one scale with one waterline. */
export function SideBySide({
  before,
  after,
  date,
}: {
  before: { site: SiteFile; night: NightAnswer };
  after: { site: SiteFile; night: NightAnswer; name: string };
  date: string;
}) {
  const { units } = useWorkspace("units");
  const { clock } = useConventions();
  const { box, width } = useWidth(1200);
  const [line, setLine] = useState<number | null>(null);
  const both = useMemo(
    () => [before, after].map(({ site, night }) => braidOf(site, night.plan.runs, night.moments, date)),
    [before, after, date],
  );
  const longest = Math.max(1, ...both.map((b) => (b ? (b.to - b.from) / 60 : 0)));
  const pxPerMinute = Math.max(0.6, Math.min(6, 430 / longest));
  return (
    <div ref={box} className="grid md:grid-cols-2 gap-4 overflow-x-auto">
      {[before, after].map(({ site, night }, i) => {
        const data = both[i];
        return (
          <figure key={i === 0 ? "before" : "after"} className="min-w-0 overflow-x-auto">
            <figcaption className="font-semibold">
              {i === 0 ? "As it is" : after.name}: ends {clock(night.plan.finish, date)}
            </figcaption>
            {data && (
              <Braid
                site={site}
                data={data}
                units={units}
                width={Math.max(420, width / 2 - 16)}
                pxPerMinute={pxPerMinute}
                noEarlierThan={noEarlierThan(night.plan)}
                selected={null}
                onSelect={() => {}}
                waterline={Math.max(data.from, Math.min(data.to, line ?? data.from + (data.to - data.from) / 3))}
                onWaterline={setLine}
              />
            )}
          </figure>
        );
      })}
    </div>
  );
}
