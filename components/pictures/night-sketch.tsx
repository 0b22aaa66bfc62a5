import type { RoundsRow } from "@/contracts/rounds";

const HEIGHT = 30;

/** The night in small: time to the right, flow up, each run a bar of its own water; the bank where what binds carries all of it. */
export function NightSketch({ summary, name }: { summary: NonNullable<RoundsRow["summary"]>; name: string }) {
  const { binding } = summary;
  const sketch = summary.sketch === "" ? [] : summary.sketch.split(" ").map(Number);
  if (sketch.length === 0) return <span className="text-faint">–</span>;
  const width = sketch.length + 2;
  const most = Math.max(...sketch);
  const bank = binding && binding.ceilingLpm >= most - 1 ? binding.ceilingLpm : null;
  const top = Math.max(bank ?? 0, most) * 1.06 || 1;
  const y = (lpm: number): number => HEIGHT - 1 - ((HEIGHT - 2) * lpm) / top;
  return (
    <svg
      width={width}
      height={HEIGHT}
      viewBox={`0 0 ${width} ${HEIGHT}`}
      role="img"
      aria-label={`Flow through the night of ${name}`}
    >
      <rect x="1" y="1" width={sketch.length} height={HEIGHT - 2} fill="var(--bed)" />
      <path
        d={`M1 ${y(0)} ${sketch.map((b, i) => `L${1 + i} ${y(b)} L${2 + i} ${y(b)}`).join(" ")} L${sketch.length + 1} ${y(0)} Z`}
        fill="var(--water)"
      />
      {bank !== null && <path d={`M1 ${y(bank)}H${sketch.length + 1}`} stroke="var(--ink)" strokeWidth="1.5" />}
    </svg>
  );
}
