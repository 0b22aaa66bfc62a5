import { G, Path, Rect, Svg, Text as SvgText } from "@react-pdf/renderer";
import ELK, { type ElkNode } from "elkjs/lib/elk.bundled.js";
import type { SiteFile } from "../core/site-file/schema.ts";

/** Where everything is drawn, in points: what flows in above, what waters below. */
export type Drawn = {
  width: number;
  height: number;
  boxes: { id: string; x: number; y: number; width: number; height: number; lines: [string, string] }[];
  lines: { x: number; y: number }[][];
};

const BOX = { width: 118, height: 30 };
const many = (n: number, one: string): string => `${n} ${one}${n === 1 ? "" : "s"}`;

/** Sources, points of connection and mainlines with what hangs on them, laid out from where the water comes to where it goes. */
export async function drawn(site: SiteFile): Promise<Drawn> {
  const stations = (id: string): number => site.stations.filter((s) => s.mainlineId === id).length;
  const nodes = [
    ...site.sources.map((s) => ({ id: s.id, lines: [s.name, s.kind] as [string, string] })),
    ...site.pocs.map((p) => ({ id: p.id, lines: [p.name, "point of connection"] as [string, string] })),
    ...site.mainlines.map((m) => ({ id: m.id, lines: [m.name, many(stations(m.id), "station")] as [string, string] })),
  ];
  const known = new Set(nodes.map((n) => n.id));
  const edges = [
    ...site.pocs.flatMap((p) => p.sourceIds.map((from) => [from, p.id] as const)),
    ...site.mainlines.flatMap((m) => m.feedIds.map((from) => [from, m.id] as const)),
  ].filter(([a, b]) => known.has(a) && known.has(b));
  const placed: ElkNode = await new ELK().layout({
    id: "site",
    layoutOptions: {
      "elk.algorithm": "layered",
      "elk.direction": "DOWN",
      "elk.edgeRouting": "ORTHOGONAL",
      "elk.spacing.nodeNode": "14",
      "elk.layered.spacing.nodeNodeBetweenLayers": "26",
    },
    children: nodes.map((n) => ({ id: n.id, ...BOX })),
    edges: edges.map(([a, b], i) => ({ id: `e${i}`, sources: [a], targets: [b] })),
  });
  const lines = new Map(nodes.map((n) => [n.id, n.lines]));
  return {
    width: placed.width ?? BOX.width,
    height: placed.height ?? BOX.height,
    boxes: (placed.children ?? []).map((c) => ({
      id: c.id,
      x: c.x ?? 0,
      y: c.y ?? 0,
      ...BOX,
      lines: lines.get(c.id) ?? ["", ""],
    })),
    lines: (placed.edges ?? []).flatMap((e) =>
      (e.sections ?? []).map((s) => [s.startPoint, ...(s.bendPoints ?? []), s.endPoint]),
    ),
  };
}

/** The drawing, as large as the page lets it be. */
export function DrawingOf({ drawn: d, width, height }: { drawn: Drawn; width: number; height: number }) {
  const scale = Math.min(1, width / d.width, height / d.height);
  const text = (fontSize: number) => ({ fontSize, fontFamily: "Barlow Semi Condensed" });
  return (
    <Svg width={d.width * scale + 2} height={d.height * scale + 2} viewBox={`-1 -1 ${d.width + 2} ${d.height + 2}`}>
      {d.lines.map((points) => {
        const path = points.map((p, i) => `${i === 0 ? "M" : "L"}${p.x} ${p.y}`).join(" ");
        return <Path key={path} d={path} stroke="#000" strokeWidth={1.4} fill="none" />;
      })}
      {d.boxes.map((b) => (
        <G key={b.id}>
          <Rect x={b.x} y={b.y} width={b.width} height={b.height} fill="#fff" stroke="#000" strokeWidth={0.9} />
          <SvgText x={b.x + 5} y={b.y + 12} style={text(8.5)}>
            {b.lines[0].length > 26 ? `${b.lines[0].slice(0, 25)}…` : b.lines[0]}
          </SvgText>
          <SvgText x={b.x + 5} y={b.y + 23} style={text(7.5)}>
            {b.lines[1]}
          </SvgText>
        </G>
      ))}
    </Svg>
  );
}
