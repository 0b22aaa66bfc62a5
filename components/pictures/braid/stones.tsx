import { LEFT } from "./measures";

/** An alarm at its moment, with its words; at a main, or where none is to blame at the left. */
export type Stone = { at: number; words: string; mainlineId: string | null };

export function Stones({
  stones,
  mains,
  y,
}: {
  stones: readonly Stone[];
  mains: readonly { m: { id: string }; at: number }[];
  y: (at: number) => number;
}) {
  return stones.map((s, i) => {
    const x = mains.find(({ m }) => m.id === s.mainlineId)?.at ?? LEFT;
    const line = y(s.at);
    return (
      // biome-ignore lint/suspicious/noArrayIndexKey: two alarms of one second differ only by their place
      <g key={`${s.at}-${i}`} pointerEvents="none">
        <path d={`M${x - 5} ${line} l7 -8 h11 l6 8 l-6 8 h-11 Z`} fill="var(--alarm)" stroke="var(--paper)" />
        <rect
          x={x + 22}
          y={line - 10}
          width={s.words.length * 6.4 + 10}
          height="20"
          fill="var(--paper)"
          stroke="var(--alarm)"
        />
        <text x={x + 27} y={line + 4} fontSize="13" fontWeight="600" fill="var(--alarm)">
          {s.words}
        </text>
      </g>
    );
  });
}
