"use client";
import { Mark } from "@/components/kit/notice";
import { Button } from "@/components/kit/button";
import { FileButton } from "@/components/kit/file-button";
import { Table } from "@/components/kit/table";
import { useState } from "react";
import { fileStem, saveText } from "@/components/kit/save-file";
import { useWorkspace } from "@/components/draft/site-draft";
import type { Unfit, UnfitCode } from "@/core/hydraulics/inp-parse";
import type { InpImport } from "@/core/hydraulics/inp-waterworks";
import { waterworks } from "@/core/network/waterworks";

/** What a file may hold that Presa takes another way or not at all, in words. */
const UNFIT: Record<UnfitCode, string> = {
  section: "has no place in Presa and is left out",
  headloss: "friction formula: C 150 is taken for every pipe; correct it by material",
  closedLink: "is closed and left out",
  closedPipe: "is closed and left out",
  constantPower: "is given by power, not by a curve, and is left out; add the pump with its curve",
  valveKind: "is a kind of valve that Presa does not have; only its loss when open is taken",
  pattern: "changes by a pattern; its base figure is taken",
  inflow: "gives water instead of drawing it; taken as no draw",
  unknownNode: "names a node that is not in the file, and is left out",
  unknownCurve: "names a curve that is not in the file, and is left out",
  badLine: "cannot be read as numbers; 0 is taken where one is missing",
  loop: "closes a loop: the main there is fed from both ends, each one way only",
  tankLevels: "has levels that change; its first level is taken as steady",
  emitter: "flows by pressure; it is left out, since stations draw what is expected of them",
  severalTaps: "leaves its feeds at several places along them; the first is taken",
  unreached: "no water reaches it, and it is left out",
  checkValve: "would lead water backwards through a one-way piece, and is left out",
  pumpSpeed: "has a speed or pattern; the pump is taken at full speed",
};
const LARGEST = 8 * 1024 * 1024;

/** The waterworks as an open EPANET input file, out and in. */
export function ExchangePanel({ onDone }: { onDone: () => void }) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const [problem, setProblem] = useState<string | null>(null);
  const [found, setFound] = useState<{ name: string; value: InpImport } | null>(null);
  const read = async (file: File): Promise<void> => {
    setFound(null);
    setProblem(null);
    if (file.size > LARGEST) return setProblem(`${file.name} is larger than 8 MB; a network of a site is far smaller.`);
    const { waterworksFromInp } = await import("@/core/hydraulics/inp-waterworks");
    const outcome = waterworksFromInp(await file.text(), draft);
    if (outcome.ok) setFound({ name: file.name, value: outcome.value });
    else setProblem(outcome.problems[0]?.message ?? "The file could not be taken.");
  };
  const save = async (): Promise<void> => {
    const [{ exportInp }, { networkModel }, { designSet }, { CapacityCalendar }] = await Promise.all([
      import("@/core/hydraulics/inp-write"),
      import("@/core/hydraulics/network-model"),
      import("@/core/hydraulics/pressure-sets"),
      import("@/core/dispatch/capacity"),
    ]);
    const w = waterworks(draft);
    const { running } = designSet(w, networkModel(draft), new CapacityCalendar(w, "2001-01-01"));
    saveText(exportInp(draft, new Set(running)), `${fileStem(draft)}.inp`, "text/plain");
  };
  return (
    <section aria-label="Exchange" className="max-w-4xl mt-2">
      <h3 className="text-lg">Out</h3>
      <p className="max-w-prose">
        An EPANET input file (.inp) of sources, connections, mainlines and stations, with as many stations drawing as
        the ceilings allow. Other network programs read it; Presa reads it back to the same waterworks and pressures.
      </p>
      <Button className="mt-1" onClick={save} disabled={draft.mainlines.length === 0}>
        Save {fileStem(draft)}.inp
      </Button>
      {canEdit && (
        <>
          <h3 className="text-lg mt-6">In</h3>
          <p className="max-w-prose">
            Elements that the file names by an id of this site are changed, all others are added; nothing of the site
            goes. It becomes part of your unsaved changes, which you can look through, undo and save.
          </p>
          <FileButton
            name="EPANET input file"
            accept=".inp,.txt,text/plain"
            className="mt-1"
            onFile={(file) => void read(file)}
          >
            Choose an input file
          </FileButton>
          {problem && (
            <p role="alert" className="text-error font-semibold mt-2">
              <Mark tone="alarm" /> {problem} Nothing was changed.
            </p>
          )}
          {found && (
            <div className="mt-3" role="region" aria-label="What the file holds">
              <p>
                <strong>{found.name}</strong>: {found.value.added.length} added
                {found.value.added.length > 0 ? ` (${shortList(found.value.added)})` : ""}, {found.value.changed.length}{" "}
                changed{found.value.changed.length > 0 ? ` (${shortList(found.value.changed)})` : ""}.
              </p>
              {found.value.unfit.length > 0 ? <UnfitTable unfit={found.value.unfit} /> : <p>Everything in it fits.</p>}
              <Button
                rank="main"
                className="mt-2"
                onClick={() => {
                  edit(() => found.value.site);
                  setFound(null);
                  onDone();
                }}
              >
                Take it into the draft
              </Button>
            </div>
          )}
        </>
      )}
    </section>
  );
}

const shortList = (names: string[]): string =>
  `${names.slice(0, 4).join(", ")}${names.length > 4 ? ` and ${names.length - 4} more` : ""}`;

function UnfitTable({ unfit }: { unfit: Unfit[] }) {
  return (
    <>
      <p className="mt-1">
        <strong>
          {unfit.length} thing{unfit.length > 1 ? "s" : ""} in the file
        </strong>{" "}
        that Presa takes another way or not at all:
      </p>
      <div className="max-h-72 overflow-y-auto" tabIndex={-1}>
        <Table>
          <thead>
            <tr>
              <th className="text-right">Line</th>
              <th>Section</th>
              <th>What</th>
            </tr>
          </thead>
          <tbody>
            {unfit.map((u, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
              <tr key={`${u.code}-${u.line}-${i}`}>
                <td className="text-right">{u.line || "–"}</td>
                <td>{u.section}</td>
                <td>
                  <strong>{u.subject}</strong> {UNFIT[u.code]}.
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </div>
    </>
  );
}
