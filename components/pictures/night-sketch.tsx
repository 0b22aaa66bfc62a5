import type { RoundsRow } from "@/contracts/rounds";

const BINS = 110;
const [WIDTH, HEIGHT] = [BINS + 2, 30];

/** The night in small: time to the right, flow up, each run a bar of its own water; the bank where what binds carries all of it. */
export function NightSketch({ summary, name }: { summary: RoundsRow["summary"]; name: string }) {
  const { sketch, makespanS, binding } = summary;
  if (sketch.length === 0) return <span className="text-faint">–</span>;
  const step = Math.max(1, makespanS / BINS);
  const bins = Array.from({ length: BINS }, (_, i) =>
    sketch.reduce((sum, [s, length, lpm]) => sum + (s <= i * step && i * step < s + length ? lpm : 0), 0),
  );
  const most = Math.max(...bins);
  const bank = binding && binding.ceilingLpm >= most - 1 ? binding.ceilingLpm : null;
  const top = Math.max(bank ?? 0, most) * 1.06 || 1;
  const y = (lpm: number): number => HEIGHT - 1 - ((HEIGHT - 2) * lpm) / top;
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`Flow through the night of ${name}`}
    >
      <rect x="1" y="1" width={BINS} height={HEIGHT - 2} fill="var(--bed)" />
      <path
        d={`M1 ${y(0)} ${bins.map((b, i) => `L${1 + i} ${y(b)} L${2 + i} ${y(b)}`).join(" ")} L${BINS + 1} ${y(0)} Z`}
        fill="var(--water)"
      />
      {bank !== null && <path d={`M1 ${y(bank)}H${BINS + 1}`} stroke="var(--ink)" strokeWidth="1.5" />}
    </svg>
  );
}
