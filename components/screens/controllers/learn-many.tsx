"use client";
import { GraduationCap } from "lucide-react";
import { useMemo, useState } from "react";
import { type Line, type Place, useLearnable } from "@/components/data/use-controllers";
import { Button } from "@/components/kit/button";
import { Dialog } from "@/components/kit/dialog";
import { ChoiceField, TickField } from "@/components/kit/fields";
import { Caution, Problem } from "@/components/kit/notice";
import { Table } from "@/components/kit/table";
import { TimeField } from "@/components/kit/time-field";
import type { LearnManyRequest } from "@/contracts/controllers";
import type { WhichToLearn } from "@/core/learn/to-learn";
import { placesOf } from "./many";

type What = Pick<LearnManyRequest, "which" | "hours">;
const WHICH: [WhichToLearn, string][] = [
  ["stale", "what is stale or was never learned"],
  ["all", "all stations"],
];

/** Learning at the controllers of many sites: what is stale, or all, at once or when an hour comes on each site's clock. */
export function LearnMany({
  chosen,
  disabled,
  onLearn,
}: {
  chosen: readonly Line[];
  disabled: boolean;
  onLearn: (places: Place[], what: What) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button
        rank="quiet"
        icon={GraduationCap}
        disabled={disabled || chosen.length === 0}
        onClick={() => setOpen(true)}
      >
        Learn at {chosen.length > 0 && `${chosen.length} `}ticked…
      </Button>
      <Dialog title="Learn at many controllers" open={open} onClose={() => setOpen(false)} wide>
        <LearnManyForm
          chosen={chosen}
          onClose={() => setOpen(false)}
          onLearn={(places, what) => {
            setOpen(false);
            onLearn(places, what);
          }}
        />
      </Dialog>
    </>
  );
}

function LearnManyForm({
  chosen,
  onLearn,
  onClose,
}: {
  chosen: readonly Line[];
  onLearn: (places: Place[], what: What) => void;
  onClose: () => void;
}) {
  const places = useMemo(
    () => placesOf(chosen).map(({ siteId, controllerIds }) => ({ siteId, controllerIds })),
    [chosen],
  );
  const { data, error } = useLearnable(places, true);
  const [which, setWhich] = useState<WhichToLearn>("stale");
  const [later, setLater] = useState(true);
  const [hours, setHours] = useState<{ from: string; to?: string }>({ from: "22:00" });
  const names = new Map(chosen.map((l) => [l.siteId, l.siteName]));
  const able = places.filter((p) => (data?.find((d) => d.siteId === p.siteId)?.[which] ?? 0) > 0);
  const stations = (data ?? []).reduce((sum, d) => sum + d[which], 0);
  return (
    <>
      <Caution>
        Valves open one after the other for some minutes each, on every one of these sites: nobody in a valve box or a
        pump house, and no hose in use.
      </Caution>
      <div className="my-3 flex flex-wrap items-end gap-3">
        <ChoiceField label="Learn" className="w-72" value={which} options={WHICH} onCommit={setWhich} />
        <TickField label="at a set hour" checked={later} onCommit={setLater} />
        {later && (
          <>
            <TimeField
              label="From"
              required
              value={hours.from}
              onCommit={(v) => v && setHours({ ...hours, from: v })}
            />
            <TimeField
              label="None past"
              value={hours.to}
              onCommit={(v) => setHours(v ? { from: hours.from, to: v } : { from: hours.from })}
            />
          </>
        )}
      </div>
      <p className="mb-2 text-sm text-faint">
        {later
          ? "The next time that hour comes on each site's own clock; programs wait meanwhile."
          : "At once; programs wait meanwhile."}{" "}
        What is read becomes proposals on each site's Learn; nobody needs to stay connected.
      </p>
      {error && <Problem className="mb-2">{error.message}</Problem>}
      {!data && !error && <p role="status">Looking at what can be learned…</p>}
      {data && (
        <Table aria-label="What can be learned">
          <thead>
            <tr>
              <th scope="col">Site</th>
              <th scope="col" className="text-right">
                Stale or never
              </th>
              <th scope="col" className="text-right">
                All
              </th>
              <th scope="col">In its way</th>
            </tr>
          </thead>
          <tbody>
            {data.map((d) => (
              <tr key={d.siteId}>
                <td>{names.get(d.siteId)}</td>
                <td className="text-right tabular-nums">{d.why === null ? d.stale : "–"}</td>
                <td className="text-right tabular-nums">{d.why === null ? d.all : "–"}</td>
                <td className="text-warning">
                  {d.why ?? (d.refused > 0 && `${d.refused} stale cannot be learned as they stand; Learn says why`)}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
      <div className="mt-3 flex gap-2">
        <Button
          rank="main"
          icon={GraduationCap}
          disabled={able.length === 0}
          onClick={() => onLearn(able, { which, ...(later ? { hours } : {}) })}
        >
          Learn {stations} station{stations === 1 ? "" : "s"} on {able.length} site{able.length === 1 ? "" : "s"}
        </Button>
        <Button onClick={onClose}>Not now</Button>
      </div>
    </>
  );
}
