"use client";
import { Square } from "lucide-react";
import { useEffect, useRef } from "react";
import type { Many } from "@/components/data/use-many";
import { Button } from "@/components/kit/button";
import { Progress } from "@/components/kit/progress";
import { sitesWords } from "@/components/words/sites-words";

/**
 * How far something that many sites are asked for, or that is done to them, has come, and of which it was not and why.
 *
 * @param doing as a word that ends "3 sites …"
 */
export function HowFar({ many, doing = "asked", onStop }: { many: Many; doing?: string; onStop: () => void }) {
  const box = useRef<HTMLDivElement>(null);
  // Whoever asked may have scrolled to the last of a long list.
  useEffect(() => {
    if (!many.ended) box.current?.scrollIntoView({ block: "center" });
  }, [many.ended]);
  return (
    <div ref={box} role="status" className="mb-3">
      {many.ended ? (
        <p>
          {sitesWords(many.asked)} {doing}
          {many.done < many.of && `; stopped after ${many.done} of ${many.of}`}.
        </p>
      ) : (
        <div className="flex flex-wrap items-center gap-3">
          <Progress className="w-64" value={many.done} max={many.of} aria-label={`Sites ${doing}`} />
          <span>
            {many.done} of {sitesWords(many.of)}
          </span>
          <Button rank="quiet" icon={Square} onClick={onStop}>
            Stop
          </Button>
        </div>
      )}
      {many.not.map((n) => (
        <p key={n} className="text-warning">
          {n}
        </p>
      ))}
    </div>
  );
}
