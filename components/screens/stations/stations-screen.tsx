"use client";
import { ArrowDownUp, Download, NotebookPen, Plus, Trash2, FileSpreadsheet } from "lucide-react";
import { useEffect, useMemo, useRef } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { ScreenBar } from "@/components/frame/screen-bar";
import { useScreenParam } from "@/components/frame/use-screen-param";
import { Button } from "@/components/kit/button";
import { FileButton } from "@/components/kit/file-button";
import { Input } from "@/components/kit/inputs";
import { usePrinting } from "@/components/kit/use-printing";
import { StationsOnPaper } from "./stations-on-paper";
import { WithInspector } from "@/components/kit/inspector";
import { Problem } from "@/components/kit/notice";
import { fileStem, saveText } from "@/components/kit/save-file";
import { saveSheet } from "@/components/kit/save-sheet";
import { check } from "@/core/check/check";
import type { SiteFile } from "@/core/site-file/schema";
import { stationsCsv } from "./paste";
import { PastePreview } from "./paste-preview";
import { CopySettings } from "./copy-settings";
import { StationGrid } from "./station-grid";
import { StationSheet } from "./station-sheet";
import { useGrid } from "./use-grid";

function emptyWords(site: SiteFile): string {
  if (site.stations.length > 0) return "No station matches the search.";
  if (site.mainlines.length === 0 || site.controllers.length === 0)
    return "First draw a mainline and a controller on Waterworks; then list the stations here.";
  return "No stations yet. Click here and paste them from a spreadsheet (headings like No., Name, Design, Mainline are understood), or add them one by one.";
}

/** A dense grid: edit in place, paste from a spreadsheet, fill down, undo; keyboard first. */
export function StationsScreen() {
  const { draft, units, canEdit } = useWorkspace("draft", "units", "canEdit");
  const grid = useGrid();
  const [aids, setAids] = useScreenParam<"" | "on">("aids", "", { add: false });
  const [asked] = useScreenParam<string>("at", "", { add: false });
  const printing = usePrinting();
  const goTo = useRef(grid.goTo);
  useEffect(() => {
    goTo.current = grid.goTo;
  });
  useEffect(() => {
    if (asked !== "") goTo.current(asked);
  }, [asked]);
  const findings = useMemo(
    () => new Map(check(draft).flatMap((f) => (f.severity === "note" ? [] : [[f.subjectId, f] as const]))),
    [draft],
  );
  const inProgram = useMemo(
    () => new Set(draft.programs.flatMap((p) => p.runs.map((r) => r.stationId))),
    [draft.programs],
  );
  const chosen = grid.rows[grid.at.row];
  const many = grid.marked.length;
  const table = (
    <StationGrid
      file={draft}
      rows={grid.rows}
      units={units}
      canEdit={canEdit}
      at={grid.at}
      marked={grid.range}
      typing={grid.typing}
      sort={grid.sort}
      findings={findings}
      inProgram={inProgram}
      onAt={grid.onAt}
      onSort={grid.turnSort}
      onTyping={grid.onTyping}
      onTyped={grid.onTyped}
      onKeyDown={grid.onKeyDown}
      onPaste={grid.onPaste}
      onCopy={grid.onCopy}
      empty={emptyWords(draft)}
    />
  );
  return (
    <>
      <ScreenBar
        title="Stations"
        tools={
          <>
            <Input
              data-find
              className="w-44"
              aria-label="Find"
              placeholder="Find"
              value={grid.find}
              onChange={(e) => grid.search(e.target.value)}
            />
            {grid.sort && (
              <Button rank="quiet" icon={ArrowDownUp} onClick={grid.unsort}>
                File order
              </Button>
            )}
            <Button
              rank="quiet"
              icon={Download}
              disabled={draft.stations.length === 0}
              onClick={() => saveText(stationsCsv(draft, units), `${fileStem(draft)}-stations.csv`, "text/csv")}
            >
              Save CSV
            </Button>
            <Button
              rank="quiet"
              icon={FileSpreadsheet}
              disabled={draft.stations.length === 0}
              onClick={() => void saveSheet(stationsCsv(draft, units), `${fileStem(draft)}-stations.xlsx`)}
            >
              XLSX
            </Button>
            {canEdit && (
              <>
                <FileButton
                  rank="quiet"
                  name="Stations as CSV"
                  accept=".csv,.txt,text/csv"
                  onFile={(file) =>
                    void file.text().then((text) => grid.take(text, { row: draft.stations.length, column: 0 }))
                  }
                >
                  Read CSV
                </FileButton>
                {chosen && <CopySettings from={chosen} marked={grid.marked} />}
                <Button rank="quiet" icon={Trash2} disabled={grid.rows.length === 0} onClick={grid.drop}>
                  Delete {many > 1 ? `${many} stations` : "station"}
                </Button>
              </>
            )}
            <Button
              rank="quiet"
              icon={NotebookPen}
              aria-expanded={aids === "on"}
              onClick={() => setAids(aids === "on" ? "" : "on")}
            >
              Aids
            </Button>
          </>
        }
        main={
          canEdit ? (
            <Button rank="main" icon={Plus} onClick={grid.add}>
              Station
            </Button>
          ) : undefined
        }
      />
      <p className="no-print mb-2 text-xs text-faint">
        Type or press Enter to edit; paste rows from a spreadsheet, with or without headings; Shift+arrows mark rows:
        typing changes all of them, Ctrl+D fills down. A heading sorts.
      </p>
      {grid.said?.bad && (
        <div className="mb-2">
          {grid.said.lines.map((l) => (
            <Problem key={l}>{l}</Problem>
          ))}
        </div>
      )}
      {grid.said && !grid.said.bad && (
        <p role="status" className="mb-2">
          {grid.said.lines.join(" ")}
        </p>
      )}
      {grid.preview && (
        <PastePreview
          paste={grid.preview}
          onTake={() => grid.preview && grid.accept(grid.preview)}
          onCancel={grid.refuse}
        />
      )}
      {printing && <StationsOnPaper />}
      <div className="no-print">
        {chosen && aids === "on" ? (
          <WithInspector label="Aids" inspector={<StationSheet key={chosen.id} station={chosen} />}>
            {table}
          </WithInspector>
        ) : (
          table
        )}
      </div>
    </>
  );
}
