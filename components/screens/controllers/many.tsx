"use client";
import { Send } from "lucide-react";
import { useState } from "react";
import type { Line, Place } from "@/components/data/use-controllers";
import { Button } from "@/components/kit/button";
import { Dialog } from "@/components/kit/dialog";
import { sitesWords } from "@/components/words/sites-words";

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
            Send to {sitesWords(places.length)}
          </Button>
          <Button onClick={() => setOpen(false)}>Not now</Button>
        </div>
      </Dialog>
    </>
  );
}
