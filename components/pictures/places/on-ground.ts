import type { SitePlace } from "@/contracts/rounds";

const KM_A_DEGREE = 111.32;
/** Sites that lie closer together than this are shown no larger, km. */
const LEAST_KM = 1;
const ROUND_STEPS = [1, 2, 5];

export type OnGround = {
  /** What a kilometre is, in units of the drawing. */
  unitsPerKm: number;
  width: number;
  height: number;
  at: (place: Pick<SitePlace, "latitudeDeg" | "longitudeDeg">) => { x: number; y: number };
};

/** The shortest way round from one longitude to another, degrees. */
const eastOf = (from: number, to: number): number => ((to - from + 540) % 360) - 180;

/**
 * Places laid flat, north up, to scale in the middle of them: degrees of longitude shrink with the cosine of the latitude. `size` is what the longer side becomes.
 */
export function onGround(places: readonly SitePlace[], size: number): OnGround {
  const first = places[0]?.longitudeDeg ?? 0;
  const lats = places.map((p) => p.latitudeDeg);
  const easts = places.map((p) => eastOf(first, p.longitudeDeg));
  const [south, north] = [Math.min(...lats), Math.max(...lats)];
  const [west, east] = [Math.min(...easts), Math.max(...easts)];
  const shrink = Math.cos((((south + north) / 2) * Math.PI) / 180);
  const [wide, high] = [(east - west) * shrink * KM_A_DEGREE, (north - south) * KM_A_DEGREE];
  const unitsPerKm = size / Math.max(wide, high, LEAST_KM);
  return {
    unitsPerKm,
    width: wide * unitsPerKm,
    height: high * unitsPerKm,
    at: ({ latitudeDeg, longitudeDeg }) => ({
      x: (eastOf(first, longitudeDeg) - west) * shrink * KM_A_DEGREE * unitsPerKm,
      y: (north - latitudeDeg) * KM_A_DEGREE * unitsPerKm,
    }),
  };
}

/** A round distance of at most `most`: 1, 2 or 5 times a power of ten. */
export function roundDistance(most: number): number {
  const power = 10 ** Math.floor(Math.log10(most));
  return power * (ROUND_STEPS.findLast((s) => s * power <= most) ?? 1);
}

type Box = { id: string; x: number; y: number; width: number };
/** Those whose words fit beside one another, the first ones first; the others are shown without. Places in px of the screen. */
export function wordsThatFit(boxes: readonly Box[], height: number): Set<string> {
  const rows = new Map<number, Box[]>();
  const shown = new Set<string>();
  for (const box of boxes) {
    const row = Math.floor(box.y / height);
    const near = [row - 1, row, row + 1].flatMap((r) => rows.get(r) ?? []);
    const meets = near.some((b) => Math.abs(b.y - box.y) < height && Math.abs(b.x - box.x) < (b.width + box.width) / 2);
    if (meets) continue;
    shown.add(box.id);
    rows.set(row, [...(rows.get(row) ?? []), box]);
  }
  return shown;
}
