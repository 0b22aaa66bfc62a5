"use client";
import { type Node, type NodeProps, ReactFlow, ReactFlowProvider, useStore } from "@xyflow/react";
import "@xyflow/react/dist/base.css";
import { useMemo } from "react";
import type { SitePlace } from "@/contracts/rounds";
import type { UnitSystem } from "@/core/units/units";
import { onGround, roundDistance, wordsThatFit } from "./on-ground";
import { Pin } from "./pin";
import { ZoomTools } from "./zoom-tools";

type Props = { places: SitePlace[]; units: UnitSystem; onOpen: (id: string) => void };
type PlaceNode = Node<{ place: SitePlace; word: boolean }, "place">;

const SIZE = 1000;
/** What a word takes on the screen, px: about so much a letter, and the height of its box with the stem. */
const LETTER_PX = 6;
const WORD_HEIGHT_PX = 30;
const SCALE_PX = 160;
const KM_A_MILE = 1.609344;

/** Sites where they are, north up, to scale: those that need somebody are large and full. Drawn near with Ctrl and the wheel, or by two fingers. */
export function PlacesPlot(props: Props) {
  return (
    <ReactFlowProvider>
      <Plot {...props} />
    </ReactFlowProvider>
  );
}

function Plot({ places, units, onOpen }: Props) {
  // In steps, so that words do not come and go with every turn of the wheel.
  const zoom = useStore((s) => 2 ** (Math.round(Math.log2(s.transform[2]) * 3) / 3));
  const ground = useMemo(() => onGround(places, SIZE), [places]);
  const nodes = useMemo<PlaceNode[]>(() => {
    const at = places.map((place) => ({ place, ...ground.at(place) }));
    const words = wordsThatFit(
      at.map(({ place, x, y }) => ({
        id: place.id,
        x: x * zoom,
        y: y * zoom,
        width: place.name.length * LETTER_PX + 10,
      })),
      WORD_HEIGHT_PX,
    );
    return at.map(({ place, x, y }) => ({
      id: place.id,
      type: "place",
      position: { x, y },
      origin: [0.5, 1],
      data: { place, word: words.has(place.id) },
      ariaLabel: `${place.name}${place.why ? `: ${place.why}` : ""}`,
      ariaRole: "link",
      draggable: false,
      zIndex: place.needs ? 2 : 1,
    }));
  }, [places, ground, zoom]);
  return (
    <div className="relative">
      <div
        role="group"
        aria-label="Sites by position"
        className="h-[26rem] border border-base-300 bg-base-200 sm:h-[calc(100dvh-11rem)]"
        onKeyDown={(e) => {
          const id = (e.target as Element).closest("[data-id]")?.getAttribute("data-id");
          if (e.key === "Enter" && id) onOpen(id);
        }}
      >
        <ReactFlow<PlaceNode>
          nodes={nodes}
          edges={[]}
          nodeTypes={NODE_TYPES}
          onNodeClick={(_, node) => onOpen(node.id)}
          nodesDraggable={false}
          nodesConnectable={false}
          elementsSelectable={false}
          nodesFocusable
          deleteKeyCode={null}
          fitView
          fitViewOptions={FIT}
          minZoom={0.1}
          maxZoom={20}
          zoomOnScroll={false}
          zoomActivationKeyCode="Control"
          preventScrolling={false}
          proOptions={{ hideAttribution: true }}
          ariaLabelConfig={SAID}
        />
      </div>
      <ZoomTools whole="All sites" fit={FIT} />
      <ScaleBar unitsPerKm={ground.unitsPerKm} units={units} />
    </div>
  );
}

/** How long a round distance is here. */
function ScaleBar({ unitsPerKm, units }: { unitsPerKm: number; units: UnitSystem }) {
  const zoom = useStore((s) => s.transform[2]);
  const [unit, km] = units === "us" ? (["mi", KM_A_MILE] as const) : (["km", 1] as const);
  const pxEach = unitsPerKm * zoom * km;
  const distance = roundDistance(SCALE_PX / pxEach);
  const shown = distance < 1 && unit === "km" ? `${distance * 1000} m` : `${distance} ${unit}`;
  return (
    <div className="absolute bottom-2 left-2 bg-base-100 px-1 text-xs">
      <span>{shown}</span>
      <span className="block h-1.5 border border-t-0 border-base-content" style={{ width: distance * pxEach }} />
    </div>
  );
}

function PlaceView({ data: { place, word } }: NodeProps<PlaceNode>) {
  const title = `${place.name}${place.why ? `: ${place.why}` : ""}`;
  return (
    <Pin
      label={word ? place.name : null}
      title={title}
      chosen={false}
      marked={place.needs}
      className="cursor-pointer"
    />
  );
}

const FIT = { padding: 0.12, maxZoom: 4 };
const NODE_TYPES = { place: PlaceView };
const SAID = {
  "node.a11yDescription.default": "Enter opens the site.",
  "node.a11yDescription.keyboardDisabled": "Enter opens the site.",
};
