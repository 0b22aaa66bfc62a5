"use client";
import type { RunNode } from "./run-node";
import { Button } from "@/components/kit/button";
import "@xyflow/react/dist/base.css";
import { BaseEdge, type Edge, EdgeLabelRenderer, type EdgeProps, useInternalNode } from "@xyflow/react";
import { useWorkspace } from "@/components/draft/site-draft";
import { disconnect } from "../../draft/waterworks-edits";
import { jointPath } from "./shapes";

export type JointEdge = Edge<{ half: number }, "joint">;
export function JointView({ id, source, target, data, selected }: EdgeProps<JointEdge>) {
  const { edit, draft } = useWorkspace("edit", "draft");
  const [a, b] = [useInternalNode<RunNode>(source), useInternalNode<RunNode>(target)];
  if (!a || !b) return null;
  const from = {
    x: a.internals.positionAbsolute.x + a.data.shape.end,
    y: a.internals.positionAbsolute.y + a.data.shape.axisY,
  };
  const to = { x: b.internals.positionAbsolute.x, y: b.internals.positionAbsolute.y + b.data.shape.axisY };
  const d = jointPath(from, to);
  const half = data?.half ?? 4;
  const name = (of: string): string =>
    [...draft.sources, ...draft.pocs, ...draft.mainlines].find((e) => e.id === of)?.name ?? of;
  return (
    <>
      <BaseEdge
        id={id}
        path={d}
        style={{ stroke: selected ? "var(--alarm)" : "var(--ink)", strokeWidth: 2 * half + 3 }}
        interactionWidth={2 * half + 8}
      />
      <path
        d={d}
        fill="none"
        stroke="color-mix(in oklab, var(--water) 42%, var(--paper))"
        strokeWidth={2 * half}
        style={{ pointerEvents: "none" }}
      />
      {selected && (
        <EdgeLabelRenderer>
          <Button
            className="nodrag nopan absolute"
            style={{
              transform: `translate(-50%, -50%) translate(${(from.x + to.x) / 2}px, ${(from.y + to.y) / 2}px)`,
              pointerEvents: "all",
            }}
            onClick={() => edit(disconnect(source, target))}
          >
            Remove this feed: {name(source)} to {name(target)}
          </Button>
        </EdgeLabelRenderer>
      )}
    </>
  );
}
