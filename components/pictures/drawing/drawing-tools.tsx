"use client";
import { useReactFlow } from "@xyflow/react";
import {
  ChevronsDownUp,
  ChevronsUpDown,
  Download,
  LayoutGrid,
  Maximize,
  Redo2,
  Undo2,
  ZoomIn,
  ZoomOut,
} from "lucide-react";
import { useHistory, useWorkspace } from "@/components/draft/site-draft";
import { Button, IconButton } from "@/components/kit/button";

/** What can be done with the drawing as a whole. */
export function DrawingTools({
  allOpen,
  onFold,
  onArrange,
  onFit,
  onSvg,
  onPng,
}: {
  /** Whether every main shows its stations; null where no main has any. */
  allOpen: boolean | null;
  onFold: () => void;
  onArrange: () => void;
  onFit: () => void;
  onSvg: () => void;
  onPng: () => void;
}) {
  const { draft, canEdit, undo, redo } = useWorkspace("draft", "canEdit", "undo", "redo");
  const { canUndo, canRedo } = useHistory();
  const flow = useReactFlow();
  return (
    <div role="group" aria-label="Drawing tools" className="no-print mb-1 flex flex-wrap gap-1">
      <IconButton label="Smaller" icon={ZoomOut} onClick={() => flow.zoomOut()} />
      <IconButton label="Larger" icon={ZoomIn} onClick={() => flow.zoomIn()} />
      <Button rank="quiet" icon={Maximize} onClick={onFit}>
        Fit
      </Button>
      {allOpen !== null && (
        <Button rank="quiet" icon={allOpen ? ChevronsDownUp : ChevronsUpDown} aria-pressed={allOpen} onClick={onFold}>
          {allOpen ? "Fold stations" : "Open stations"}
        </Button>
      )}
      {canEdit && (draft.positions ?? []).length > 0 && (
        <Button rank="quiet" icon={LayoutGrid} onClick={onArrange}>
          Arrange
        </Button>
      )}
      {canEdit && (
        <span className="flex gap-1">
          <IconButton label="Undo, Ctrl+Z" icon={Undo2} disabled={!canUndo} onClick={undo} />
          <IconButton label="Redo, Ctrl+Y" icon={Redo2} disabled={!canRedo} onClick={redo} />
        </span>
      )}
      <Button rank="quiet" icon={Download} onClick={onSvg}>
        SVG
      </Button>
      <Button rank="quiet" icon={Download} onClick={onPng}>
        PNG
      </Button>
    </div>
  );
}
