"use client";
import { type JointEdge, JointView } from "./joint";
import { foldId, type RunNode, type Hands, HandsContext, PIECE_TYPE, RunNodeView } from "./run-node";
import { type Box, isWay, nearest } from "./nearest";
import { Button } from "@/components/kit/button";
import "@xyflow/react/dist/base.css";
import {
  applyNodeChanges,
  ConnectionMode,
  type NodeChange,
  ReactFlow,
  ReactFlowProvider,
  useReactFlow,
} from "@xyflow/react";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { toast } from "sonner";
import { useWorkspace } from "@/components/draft/site-draft";
import type { Device } from "@/core/site-file/schema";
import { DrawingTools } from "./drawing-tools";
import { arrange } from "./arrange";
import { addDevice, connect, mayFeed, place } from "../../draft/waterworks-edits";
import { savePng, saveSvg } from "./export-picture";
import { bounds } from "./drawing";
import { DEVICE_WORDS } from "../../words/rule-words";
import { shortName } from "./run-picture";
import { type Places, rows, type Shape, shapes } from "./shapes";

const PALETTE: Device["kind"][] = [
  "meter",
  "backflow",
  "masterValve",
  "pump",
  "flowSensor",
  "pressureSensor",
  "regulator",
  "fixedLoss",
  "pipe",
];
/** Opened stations are not shown smaller than this; what does not fit is reached by dragging the ground. */
const OPEN_ZOOM = 0.62;
/** A small waterworks is drawn larger to fill its place, up to this. */
const MOST_ZOOM = 1.45;
export function FlowDrawing(props: { selected: string | null; onSelect: (id: string | null) => void }) {
  return (
    <ReactFlowProvider>
      <Drawing {...props} />
    </ReactFlowProvider>
  );
}

/** Where one stands with something on the drawing: a whole run is where it begins, so that its pieces come after it. */
function boxOf(picked: Element): Box {
  const { left, top, width, height } = picked.getBoundingClientRect();
  return { left, top, width: picked.getAttribute("data-pick") === "run" ? 0 : width, height };
}

/** The element that something on the drawing is part of. */
const ownerOf = (list: readonly Shape[], id: string): string | null =>
  list.find(
    (s) =>
      s.id === id || foldId(s.id) === id || s.pieces.some((p) => p.id === id) || s.stations.some((x) => x.id === id),
  )?.id ?? null;

/** The waterworks to work on: pieces in flow order, thickness by ceiling, the pinch named where it binds. By mouse and by keyboard. */
function Drawing({ selected, onSelect }: { selected: string | null; onSelect: (id: string | null) => void }) {
  const { draft, edit, units, canEdit } = useWorkspace("draft", "edit", "units", "canEdit");
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const drawn = useMemo(() => shapes(draft, { open }), [draft, open]);
  const structure = useMemo(
    () => JSON.stringify([drawn.list.map((s) => [s.id, s.width, s.height]), drawn.joints.map((j) => [j.from, j.to])]),
    [drawn],
  );
  const [arranged, setArranged] = useState<{ structure: string; places: Places } | null>(null);
  const [nodes, setNodes] = useState<RunNode[]>([]);
  const [cut, setCut] = useState<string | null>(null);
  const [focused, setFocused] = useState<string | null>(null);
  const flow = useReactFlow();
  /** The next arrangement is to be shown whole. */
  const refit = useRef(true);
  const box = useRef<HTMLDivElement>(null);

  // biome-ignore lint/correctness/useExhaustiveDependencies: what is drawn follows from the structure; the rest of it may change without a new arrangement
  useEffect(() => {
    let gone = false;
    arrange(drawn).then(
      (places) => {
        if (!gone) setArranged({ structure, places });
      },
      () => {
        if (!gone) setArranged({ structure, places: rows(draft, drawn) });
      },
    );
    return () => {
      gone = true;
    };
  }, [structure]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: what is drawn follows from the structure; the rest of it may change without a new arrangement
  const places = useMemo(() => {
    const all = new Map(arranged?.places ?? []);
    const fallback = rows(draft, drawn);
    for (const s of drawn.list) if (!all.has(s.id)) all.set(s.id, fallback.get(s.id) ?? { x: 0, y: 0 });
    for (const p of draft.positions ?? []) if (all.has(p.id)) all.set(p.id, { x: p.x, y: p.y });
    return all;
  }, [arranged, drawn, draft.positions]);

  useEffect(() => {
    setNodes(
      drawn.list.map((s) => ({
        id: s.id,
        type: "run",
        position: places.get(s.id) ?? { x: 0, y: 0 },
        data: { shape: s, compact: drawn.compact },
        width: s.width,
        height: s.height,
        selectable: false,
        zIndex: s.open ? 10 : 1,
      })),
    );
  }, [drawn, places]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is drawn follows from the structure; the rest of it may change without a new arrangement
  useEffect(() => {
    if (nodes.length === 0 || !refit.current) return;
    // Until it is arranged, the rows that stand in for it are shown whole too.
    if (arranged?.structure === structure) refit.current = false;
    const frame = requestAnimationFrame(showAll);
    return () => cancelAnimationFrame(frame);
  }, [arranged, structure, nodes]);
  const showAll = (): void => {
    const area = box.current?.getBoundingClientRect();
    if (!area || drawn.list.length === 0) return;
    const { x0, y0, width, height } = bounds(drawn, places);
    const zoom = Math.max(
      open.size > 0 ? OPEN_ZOOM : 0.2,
      Math.min(MOST_ZOOM, area.width / width, area.height / height),
    );
    // What is larger than the area begins at its top left; what is smaller stands in the middle.
    flow.setViewport({
      x: Math.max(0, (area.width - width * zoom) / 2) - x0 * zoom,
      y: Math.max(0, (area.height - height * zoom) / 2) - y0 * zoom,
      zoom,
    });
  };

  const edges = useMemo<JointEdge[]>(
    () =>
      drawn.joints.map((j) => ({
        id: `${j.from}>${j.to}`,
        type: "joint",
        source: j.from,
        target: j.to,
        data: { half: j.half },
        selected: cut === `${j.from}>${j.to}`,
        focusable: false,
      })),
    [drawn, cut],
  );

  const owner = useMemo(() => (selected === null ? null : ownerOf(drawn.list, selected)), [drawn, selected]);
  const bringIntoView = (id: string | null): void => {
    const shape = drawn.list.find((s) => s.id === id);
    const at = id ? places.get(id) : undefined;
    const area = box.current?.getBoundingClientRect();
    if (!shape || !at || !area || refit.current) return;
    const { x, y, zoom } = flow.getViewport();
    const [left, top] = [at.x * zoom + x, at.y * zoom + y];
    if (
      left < 0 ||
      top < 0 ||
      left + Math.min(shape.width * zoom, area.width) > area.width ||
      top + Math.min(shape.height * zoom, area.height) > area.height
    )
      flow.setCenter(at.x + shape.width / 2, at.y + shape.height / 2, { zoom, duration: 0 });
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: when another is chosen, not when something is moved
  useEffect(() => bringIntoView(owner), [owner]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: when the focus goes elsewhere
  useEffect(() => bringIntoView(focused === null ? null : ownerOf(drawn.list, focused)), [focused]);

  // What was chosen elsewhere, in the ledger, is where the keyboard comes in.
  // biome-ignore lint/correctness/useExhaustiveDependencies: whenever another is chosen
  useEffect(() => setFocused(null), [selected]);

  const focusable = useMemo(
    () =>
      new Set(
        drawn.list.flatMap((s) => [s.id, foldId(s.id), ...s.pieces.map((p) => p.id), ...s.stations.map((x) => x.id)]),
      ),
    [drawn],
  );
  const entry = [focused, selected].find((id) => id !== null && focusable.has(id)) ?? drawn.list[0]?.id ?? null;
  const onArrow = (e: React.KeyboardEvent<HTMLDivElement>): void => {
    if (!isWay(e.key) || e.shiftKey || e.altKey || e.ctrlKey || e.metaKey) return;
    const from = (e.target as Element).closest("[data-pick]");
    if (!from) return;
    e.preventDefault();
    const all = [...(box.current?.querySelectorAll<HTMLElement>("[data-pick]") ?? [])];
    const boxes = all.filter((x) => x !== from).map((what) => ({ what, box: boxOf(what) }));
    nearest(boxOf(from), boxes, e.key)?.focus({ preventScroll: true });
  };

  const onNodesChange = useCallback(
    (changes: NodeChange<RunNode>[]) => {
      setNodes((known) => applyNodeChanges(changes, known));
      const dropped = changes.flatMap((c) =>
        c.type === "position" && c.dragging === false && c.position ? [{ id: c.id, ...c.position }] : [],
      );
      const real = dropped.filter((d) => {
        const was = places.get(d.id);
        return !was || Math.abs(was.x - d.x) > 0.5 || Math.abs(was.y - d.y) > 0.5;
      });
      if (real.length > 0) edit(place(real));
    },
    [places, edit],
  );

  const hands = useMemo<Hands>(
    () => ({
      selected,
      onSelect,
      fold: (id) =>
        setOpen((known) => {
          const next = new Set(known);
          if (!next.delete(id)) next.add(id);
          return next;
        }),
      drop: (ownerId, kind, x) => {
        const shape = drawn.list.find((s) => s.id === ownerId);
        const made = addDevice(draft, ownerId, kind, shape?.pieces.filter((p) => p.x < x).length);
        edit(() => made.file);
        onSelect(made.id);
      },
      nudge: (id, dx, dy) => {
        const at = places.get(id);
        if (at && canEdit) edit(place([{ id, x: at.x + dx, y: at.y + dy }]));
      },
      entry,
      onFocus: setFocused,
    }),
    [selected, onSelect, drawn, draft, edit, places, canEdit, entry],
  );

  const taker = drawn.list.find((s) => s.id === owner && s.kind !== "source");
  const add = (kind: Device["kind"]): void => {
    if (taker) hands.drop(taker.id, kind, Number.POSITIVE_INFINITY);
    else toast("Choose a connection or a main first, or drag the piece onto one.");
  };
  const mains = drawn.list.filter((s) => s.stations.length > 0);
  const allOpen = mains.length > 0 && mains.every((m) => open.has(m.id));
  return (
    <HandsContext value={hands}>
      <DrawingTools
        allOpen={mains.length > 0 ? allOpen : null}
        onFold={() => {
          refit.current = true;
          setOpen(allOpen ? new Set() : new Set(mains.map((m) => m.id)));
        }}
        onArrange={() => {
          refit.current = true;
          edit(place(null));
        }}
        onFit={showAll}
        onSvg={() => saveSvg(draft, units, drawn, places)}
        onPng={() => savePng(draft, units, drawn, places)}
      />
      <div
        ref={box}
        className="relative border border-base-300 h-[22rem] sm:h-[calc(100dvh-18.5rem)] min-h-[20rem]"
        role="group"
        aria-label="Drawing of the waterworks"
        onKeyDown={onArrow}
        style={{ visibility: arranged ? "visible" : "hidden" }}
      >
        <ReactFlow<RunNode, JointEdge>
          nodes={nodes}
          edges={edges}
          nodeTypes={NODE_TYPES}
          edgeTypes={EDGE_TYPES}
          onNodesChange={onNodesChange}
          onEdgeClick={(_, e) => canEdit && setCut(e.id)}
          onPaneClick={() => {
            setCut(null);
            onSelect(null);
          }}
          nodesDraggable={canEdit}
          nodesConnectable={canEdit}
          nodesFocusable={false}
          edgesFocusable={false}
          elementsSelectable={false}
          deleteKeyCode={null}
          disableKeyboardA11y
          minZoom={0.15}
          maxZoom={2.5}
          connectionMode={ConnectionMode.Strict}
          isValidConnection={(c) => mayFeed(draft, c.source, c.target)}
          onConnect={(c) => edit(connect(c.source, c.target))}
          proOptions={{ hideAttribution: true }}
          preventScrolling={false}
          zoomOnScroll={false}
          zoomActivationKeyCode="Control"
          panOnScroll={false}
          nodeDragThreshold={4}
        />
      </div>
      {canEdit && (
        <div role="group" aria-label="Pieces to place" className="no-print flex flex-wrap items-center gap-1 mt-1">
          <span className="text-sm text-faint mr-1">
            {taker
              ? `Add to ${taker.name}, or drag onto any pipe:`
              : "Drag a piece onto a pipe, or choose a pipe first:"}
          </span>
          {PALETTE.map((k) => (
            <Button
              key={k}
              draggable
              className="!px-2"
              aria-label={`Place ${DEVICE_WORDS[k]}`}
              onDragStart={(e) => {
                e.dataTransfer.setData(PIECE_TYPE, k);
                e.dataTransfer.effectAllowed = "copy";
              }}
              onClick={() => add(k)}
            >
              {shortName({ kind: k, nominal: "pipe" } as Device)}
            </Button>
          ))}
        </div>
      )}
    </HandsContext>
  );
}

const NODE_TYPES = { run: RunNodeView };
const EDGE_TYPES = { joint: JointView };
