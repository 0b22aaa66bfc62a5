import { type MainChannel, type RunKey, runKey } from "./braid-data";

/** So far a soak reaches out of its cycles, px, where it is not followed whole. */
const STUB_PX = 5;

/** A soak is a hairline between the cycles it joins: short ends everywhere, so that they do not tangle, and whole for the station that is selected. */
export function Soaks({
  channel,
  x,
  scale,
  y,
  selected,
}: {
  channel: MainChannel;
  x: number;
  scale: number;
  y: (at: number) => number;
  selected: RunKey | null;
}) {
  const cycles = new Map<string, MainChannel["ribbons"]>();
  for (const r of channel.ribbons) {
    if (!r.own) continue;
    const key = `${r.run.stationId}|${r.run.programId}`;
    cycles.set(key, [...(cycles.get(key) ?? []), r]);
  }
  return (
    <g stroke="var(--ink)" strokeWidth="1" fill="none" pointerEvents="none">
      {[...cycles.entries()].flatMap(([key, list]) => {
        const whole = list.some((r) => runKey(r.run) === selected);
        const ordered = [...list].sort((a, b) => a.from - b.from);
        return ordered.flatMap((r, i) => {
          const before = ordered[i - 1];
          if (!before || before.run.cycle === r.run.cycle) return [];
          const x0 = x + ((before.steps.at(-1)?.x ?? 0) + before.width / 2) * scale;
          const x1 = x + ((r.steps[0]?.x ?? 0) + r.width / 2) * scale;
          const [y0, y1] = [y(before.to), y(r.from)];
          const mid = (y0 + y1) / 2;
          const stub = Math.min(STUB_PX, (y1 - y0) / 3);
          const d = whole
            ? `M${x0} ${y0}C${x0} ${mid} ${x1} ${mid} ${x1} ${y1}`
            : `M${x0} ${y0}v${stub}M${x1} ${y1}v${-stub}`;
          return [<path key={`${key}${r.from}`} d={d} opacity={whole ? 0.9 : 0.55} />];
        });
      })}
    </g>
  );
}
