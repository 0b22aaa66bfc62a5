"use client";
import { Send, Square } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { Line, Place } from "@/components/data/use-controllers";
import type { Many } from "@/components/data/use-many";
import { Button } from "@/components/kit/button";
import { Dialog } from "@/components/kit/dialog";
import { Progress } from "@/components/kit/progress";

const sites = (n: number): string => `${n} site${n === 1 ? "" : "s"}`;

/** These controllers site by site, each in the revision that the line shows. */
export function placesOf(lines: readonly Line[]): (Place & { version: number })[] {
  const by = new Map<string, Place & { version: number }>();
  for (const { siteId, version, controllerId } of lines) {
    const place = by.get(siteId) ?? { siteId, version, controllerIds: [] };
    place.controllerIds.push(controllerId);
    by.set(siteId, place);
  }
  return [...by.values()];
}

/** How far asking many sites has come, and which could not be asked and why. */
export function HowFar({ many, onStop }: { many: Many; onStop: () => void }) {
  const box = useRef<HTMLDivElement>(null);
  // Whoever asked may have scrolled to the last of a long list.
  useEffect(() => {
    if (!many.ended) box.current?.scrollIntoView({ block: "center" });
  }, [many.ended]);
  return (
    <div ref={box} role="status" className="mb-3">
      {many.ended ? (
        <p>
          {sites(many.asked)} asked{many.done < many.of && `; stopped after ${many.done} of ${many.of}`}.
        </p>
      ) : (
        <div className="flex items-center gap-3">
          <Progress className="w-64" value={many.done} max={many.of} aria-label="Sites asked" />
          <span>
            {many.done} of {sites(many.of)}
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

/** Settings to many sites at once, after saying to whom. */
export function SendMany({
  chosen,
  disabled,
  onSend,
}: {
  chosen: readonly Line[];
  disabled: boolean;
  onSend: (places: (Place & { version: number })[]) => void;
}) {
  const [open, setOpen] = useState(false);
  const places = placesOf(chosen);
  return (
    <>
      <Button rank="main" icon={Send} disabled={disabled || chosen.length === 0} onClick={() => setOpen(true)}>
        Send to {chosen.length > 0 && `${chosen.length} `}ticked…
      </Button>
      <Dialog title="Send to many controllers" open={open} onClose={() => setOpen(false)} wide>
        <p className="mb-2 max-w-prose">
          Each gets what Presa holds for it now. A site that is saved meanwhile is left out and told.
        </p>
        <ul className="mb-3">
          {chosen.map((l) => (
            <li key={`${l.siteId} ${l.controllerId}`}>
              {l.siteName}, {l.controllerName}:{" "}
              {l.differs === null ? "not read back yet" : `${l.differs} item${l.differs === 1 ? "" : "s"} change there`}
              {l.byHand > 0 && (
                <strong className="text-warning">
                  , {l.byHand} of them set by someone at the controller and lost by this
                </strong>
              )}
            </li>
          ))}
        </ul>
        <div className="flex gap-2">
          <Button
            rank="main"
            icon={Send}
            onClick={() => {
              setOpen(false);
              onSend(places);
            }}
          >
            Send to {sites(places.length)}
          </Button>
          <Button onClick={() => setOpen(false)}>Not now</Button>
        </div>
      </Dialog>
    </>
  );
}
