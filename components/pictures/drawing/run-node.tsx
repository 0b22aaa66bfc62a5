"use client";
import { ChevronDown, ChevronRight } from "lucide-react";
import { Button } from "@/components/kit/button";
import "@xyflow/react/dist/base.css";
import { Handle, type Node, type NodeProps, Position, useStore } from "@xyflow/react";
import { createContext, useContext, useRef } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import type { Device } from "@/core/site-file/schema";
import { moveDevice } from "../../draft/waterworks-edits";
import { RunPicture } from "./run-picture";
import type { Shape } from "./shapes";

export type RunNode = Node<{ shape: Shape; compact: boolean }, "run">;
export type Hands = {
  selected: string | null;
  onSelect: (id: string | null) => void;
  fold: (id: string) => void;
  drop: (ownerId: string, kind: Device["kind"], x: number) => void;
  nudge: (id: string, dx: number, dy: number) => void;
  /** The one stop of the drawing for the keyboard; the arrows go on from there. */
  entry: string | null;
  onFocus: (id: string) => void;
};
export const HandsContext = createContext<Hands | null>(null);
export const PIECE_TYPE = "application/x-presa-piece";
/** Above this zoom a crowded drawing has room for the captions of its pieces. */
export const CAPTION_ZOOM = 1.05;

/** By which the key that opens a main's stations is known among what can be focused. */
export const foldId = (mainId: string): string => `${mainId} stations`;

export function RunNodeView({ data: { shape, compact } }: NodeProps<RunNode>) {
  const { draft, edit, units, canEdit } = useWorkspace("draft", "edit", "units", "canEdit");
  const hands = useContext(HandsContext) as Hands;
  const near = useStore((s) => s.transform[2] >= CAPTION_ZOOM);
  const box = useRef<HTMLDivElement>(null);
  const zoom = useStore((s) => s.transform[2]);
  const pick = (id: string, label: string): React.SVGProps<SVGGElement> & { "data-pick": string } => ({
    "data-pick": id === shape.id ? "run" : "piece",
    role: "button",
    tabIndex: hands.entry === id ? 0 : -1,
    onFocus: () => hands.onFocus(id),
    "aria-label": label,
    "aria-pressed": hands.selected === id,
    style: { cursor: "pointer" },
    onClick: () => hands.onSelect(id),
    onKeyDown: (e) => {
      if (e.key === "Enter" || e.key === " ") {
        e.preventDefault();
        hands.onSelect(id);
        return;
      }
      const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
      if (!step || !canEdit || !e.shiftKey) return;
      const [dx, dy] = step as [number, number];
      if (id === shape.id) {
        e.preventDefault();
        hands.nudge(id, dx * (e.ctrlKey ? 40 : 8), dy * (e.ctrlKey ? 40 : 8));
      } else if (dx !== 0 && shape.pieces.some((p) => p.id === id)) {
        e.preventDefault();
        edit(moveDevice(id, dx as -1 | 1));
      }
    },
  });
  const onDrop = (e: React.DragEvent): void => {
    const kind = e.dataTransfer.getData(PIECE_TYPE) as Device["kind"];
    const area = box.current?.getBoundingClientRect();
    if (!kind || !area || shape.kind === "source") return;
    e.preventDefault();
    hands.drop(shape.id, kind, (e.clientX - area.left) / zoom);
  };
  return (
    <div
      ref={box}
      role="group"
      aria-label={shape.name}
      style={{ width: shape.width, height: shape.height }}
      onDragOver={(e) => {
        if (shape.kind !== "source" && e.dataTransfer.types.includes(PIECE_TYPE)) e.preventDefault();
      }}
      onDrop={onDrop}
    >
      {shape.kind !== "source" && (
        <Handle
          type="target"
          position={Position.Left}
          isConnectable={canEdit}
          style={{ left: 0, top: shape.axisY, transform: "translate(-50%, -50%)" }}
          className="joint-end"
        />
      )}
      <svg
        width={shape.width}
        height={shape.height}
        style={{ overflow: "visible", display: "block" }}
        role="presentation"
      >
        {shape.open && (
          <rect
            x="0"
            y={shape.axisY + shape.half}
            width={shape.width}
            height={shape.height - shape.axisY - shape.half}
            fill="var(--paper)"
          />
        )}
        <RunPicture
          shape={shape}
          units={units}
          compact={compact}
          captions={!compact || near}
          selected={hands.selected}
          sourceKind={draft.sources.find((s) => s.id === shape.id)?.kind}
          pick={pick}
        />
      </svg>
      <Handle
        type="source"
        position={Position.Right}
        isConnectable={canEdit}
        style={{ left: shape.end, top: shape.axisY, right: "auto", transform: "translate(-50%, -50%)" }}
        className="joint-end"
      />
      {shape.kind === "mainline" && shape.stations.length > 0 && (
        <Button
          rank="bare"
          className="nodrag absolute inline-flex min-h-6 items-center text-[13px] px-1 bg-base-100 border border-base-300 cursor-pointer hover:bg-base-200 whitespace-nowrap"
          style={chipPlace(shape, compact)}
          aria-expanded={shape.open}
          data-pick="fold"
          tabIndex={hands.entry === foldId(shape.id) ? 0 : -1}
          onFocus={() => hands.onFocus(foldId(shape.id))}
          onClick={() => hands.fold(shape.id)}
        >
          {shape.open ? (
            <ChevronDown className="size-4 shrink-0" aria-hidden />
          ) : (
            <ChevronRight className="size-4 shrink-0" aria-hidden />
          )}
          {shape.stations.length} station{shape.stations.length === 1 ? "" : "s"}
        </Button>
      )}
    </div>
  );
}

/** Where the count of a main's stations stands: over its end; where rows are close, on the pipe itself; opened, over the list. */
function chipPlace({ width, end, axisY, half, open }: Shape, compact: boolean): React.CSSProperties {
  if (!compact) return { right: width - end, top: axisY - half - 25 };
  return open ? { left: 0, top: axisY + half + 2 } : { right: width - end + 18, top: axisY - 12 };
}
