import Elk, { type ELK } from "elkjs/lib/elk-api";
import type { Places, Shapes } from "./shapes";

let desk: ELK | null = null;
/** The engine in a worker of its own, which the page loads when it first draws. */
function elk(): ELK {
  desk ??= new Elk({
    workerFactory: () => new Worker(new URL("../../../workers/arrange.worker.ts", import.meta.url), { type: "module" }),
  });
  return desk;
}

/** Arranges the shapes in layers along the flow, with as few crossings as it finds. */
export async function arrange({ list, joints, compact }: Shapes, engine = elk()): Promise<Places> {
  const port = (id: string, side: "in" | "out") => `${side} ${id}`;
  const graph = await engine.layout({
    id: "waterworks",
    layoutOptions: {
      "elk.algorithm": "layered",
      "elk.direction": "RIGHT",
      "elk.layered.considerModelOrder.strategy": "NODES_AND_EDGES",
      "elk.layered.nodePlacement.strategy": "NETWORK_SIMPLEX",
      "elk.layered.spacing.nodeNodeBetweenLayers": "64",
      "elk.spacing.nodeNode": compact ? "4" : "12",
      "elk.spacing.componentComponent": compact ? "6" : "16",
      "elk.separateConnectedComponents": "false",
    },
    children: list.map((s) => ({
      id: s.id,
      width: s.width,
      height: s.height,
      layoutOptions: {
        "elk.portConstraints": "FIXED_POS",
        ...(s.kind === "source" ? { "elk.layered.layering.layerConstraint": "FIRST" } : {}),
      },
      ports: [
        { id: port(s.id, "in"), x: 0, y: s.axisY, width: 1, height: 1 },
        { id: port(s.id, "out"), x: s.end, y: s.axisY, width: 1, height: 1 },
      ],
    })),
    edges: joints.map((j) => ({
      id: `${j.from}>${j.to}`,
      sources: [port(j.from, "out")],
      targets: [port(j.to, "in")],
    })),
  });
  return new Map((graph.children ?? []).map((c) => [c.id, { x: c.x ?? 0, y: c.y ?? 0 }]));
}
