"use client";
import {
  applyNodeChanges,
  type Node,
  type NodeChange,
  type NodeProps,
  ReactFlow,
  ReactFlowProvider,
  useReactFlow,
} from "@xyflow/react";
import "@xyflow/react/dist/base.css";
import { useCallback, useEffect, useMemo, useState } from "react";
import { classes } from "@/components/kit/classes";
import { Problem } from "@/components/kit/notice";
import { Pin } from "../places/pin";
import { ZoomTools } from "../places/zoom-tools";

export type PlanPin = { id: string; label: string; name: string; kind: string; x: number; y: number };
type Props = {
  src: string;
  name: string;
  pins: PlanPin[];
  selected: string | null;
  /** A press on the plan places what is selected. */
  placing: boolean;
  canEdit: boolean;
  onSelect: (id: string | null) => void;
  onPlace: (x: number, y: number) => void;
  onMove: (id: string, x: number, y: number) => void;
};
type GroundNode = Node<{ src: string; name: string }, "ground">;
type PinNode = Node<{ pin: PlanPin }, "pin">;
type AnyNode = GroundNode | PinNode;

/** Width of the plan in the units that pins are placed by. */
const WIDTH = 1000;
const GROUND = "ground";
/** A piece may be called as the ground is: pins are known by ids of their own. */
const nodeOf = (pieceId: string): string => `pin ${pieceId}`;
const pieceOf = (nodeId: string): string => nodeId.slice("pin ".length);
const MOST_ZOOM = 8;
const FIT = { padding: 0.01 };

/** A plan of the site with pins that lead to its pieces: moved by hand or by the arrow keys, drawn near with Ctrl and the wheel, or by two fingers. */
export function PlanPicture(props: Props) {
  const [size, setSize] = useState<{ width: number; height: number } | null | "missing">(null);
  useEffect(() => {
    let gone = false;
    const picture = new Image();
    picture.onload = () => {
      if (!gone) setSize({ width: WIDTH, height: (WIDTH * picture.naturalHeight) / picture.naturalWidth });
    };
    picture.onerror = () => {
      if (!gone) setSize("missing");
    };
    picture.src = props.src;
    return () => {
      gone = true;
    };
  }, [props.src]);
  if (size === "missing")
    return <Problem>This plan is named in the site's file, but its picture is not kept here. Add it again.</Problem>;
  if (size === null) return <p className="text-faint">Fetching the plan…</p>;
  return (
    <ReactFlowProvider>
      <Plan {...props} size={size} />
    </ReactFlowProvider>
  );
}

function Plan({
  src,
  name,
  pins,
  selected,
  placing,
  canEdit,
  onSelect,
  onPlace,
  onMove,
  size,
}: Props & { size: { width: number; height: number } }) {
  const flow = useReactFlow();
  const drawn = useMemo<AnyNode[]>(
    () => [
      {
        id: GROUND,
        type: "ground",
        position: { x: 0, y: 0 },
        ...size,
        data: { src, name },
        draggable: false,
        selectable: false,
        focusable: false,
        zIndex: 0,
      },
      ...pins.map<PinNode>((pin) => ({
        id: nodeOf(pin.id),
        type: "pin",
        position: { x: pin.x * size.width, y: pin.y * size.height },
        origin: [0.5, 1],
        data: { pin },
        selected: pin.id === selected,
        zIndex: pin.id === selected ? 3 : 2,
        ariaLabel: `${pin.kind} ${pin.name}`,
        ariaRole: "button",
      })),
    ],
    [pins, selected, size, src, name],
  );
  const [nodes, setNodes] = useState(drawn);
  useEffect(() => setNodes(drawn), [drawn]);
  const change = useCallback(
    (changes: NodeChange<AnyNode>[]) => {
      setNodes((known) => applyNodeChanges(changes, known));
      for (const c of changes) {
        if (c.type === "position" && c.dragging !== true && c.position) {
          const was = pins.find((p) => p.id === pieceOf(c.id));
          const [x, y] = [c.position.x / size.width, c.position.y / size.height];
          if (was && Math.hypot(was.x - x, was.y - y) > 1e-4) onMove(was.id, x, y);
        }
        if (c.type === "select" && c.selected) onSelect(pieceOf(c.id));
      }
    },
    [pins, size, onMove, onSelect],
  );
  // What was chosen elsewhere is brought into view.
  // biome-ignore lint/correctness/useExhaustiveDependencies: when another is chosen, not when it is moved
  useEffect(() => {
    const pin = pins.find((p) => p.id === selected);
    const { zoom } = flow.getViewport();
    if (pin && zoom > 1) flow.setCenter(pin.x * size.width, pin.y * size.height, { zoom, duration: 0 });
  }, [selected]);
  return (
    <div className="relative">
      <div
        role="group"
        aria-label={`Plan ${name}`}
        className={classes(
          "relative h-[22rem] min-h-[20rem] border border-base-300 bg-base-200 sm:h-[calc(100dvh-13.5rem)]",
          placing && "cursor-crosshair [&_.react-flow__node]:cursor-crosshair",
        )}
      >
        <ReactFlow<AnyNode>
          nodes={nodes}
          edges={[]}
          nodeTypes={NODE_TYPES}
          onNodesChange={change}
          onNodeClick={(e, node) => {
            if (node.id !== GROUND) return onSelect(pieceOf(node.id));
            if (!placing) return onSelect(null);
            const at = flow.screenToFlowPosition({ x: e.clientX, y: e.clientY });
            onPlace(at.x / size.width, at.y / size.height);
          }}
          onPaneClick={() => onSelect(null)}
          nodesDraggable={canEdit}
          nodesConnectable={false}
          deleteKeyCode={null}
          selectionKeyCode={null}
          multiSelectionKeyCode={null}
          fitView
          fitViewOptions={FIT}
          minZoom={0.1}
          maxZoom={MOST_ZOOM}
          zoomOnScroll={false}
          zoomActivationKeyCode="Control"
          preventScrolling={false}
          nodeDragThreshold={4}
          proOptions={{ hideAttribution: true }}
          ariaLabelConfig={SAID}
        />
      </div>
      <ZoomTools whole="The whole plan" fit={FIT} />
    </div>
  );
}

function GroundView({ data: { src, name } }: NodeProps<GroundNode>) {
  return (
    // biome-ignore lint/performance/noImgElement: behind the session, drawn near and far
    <img src={src} alt={`Plan ${name}`} className="size-full select-none" draggable={false} />
  );
}

/** A plan is dark on white by night too, and so are its pins. */
function PinView({ data: { pin }, selected }: NodeProps<PinNode>) {
  return (
    <div data-theme="day" className="bg-transparent">
      <Pin label={pin.label} title={`${pin.kind} ${pin.name}`} chosen={selected} />
    </div>
  );
}

const SAID = {
  "node.a11yDescription.default": "Enter or Space chooses a pin; the arrow keys then move it.",
  "node.a11yDescription.keyboardDisabled": "Enter or Space chooses a pin; the arrow keys then move it.",
};
const NODE_TYPES = { ground: GroundView, pin: PinView };
