import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { onGround, roundDistance, wordsThatFit } from "./on-ground";

const place = (latitudeDeg: number, longitudeDeg: number) => ({
  id: `${latitudeDeg} ${longitudeDeg}`,
  name: "",
  latitudeDeg,
  longitudeDeg,
  needs: false,
  why: null,
});

describe("places laid flat", () => {
  it("north is up and east is right, a degree of longitude as long as it is at that latitude", () => {
    const [a, b, c] = [place(60, 10), place(61, 10), place(60, 11)];
    const ground = onGround([a, b, c], 1000);
    expect(ground.at(b)).toEqual({ x: 0, y: 0 });
    expect(ground.at(a).y).toBeCloseTo(1000, 6);
    expect(ground.at(c).x / ground.at(a).y).toBeCloseTo(Math.cos((60.5 * Math.PI) / 180), 6);
    expect(ground.unitsPerKm).toBeCloseTo(1000 / 111.32, 6);
  });
  it("goes the short way round across the line where days change", () => {
    const [east, west] = [place(0, 179.9), place(0, -179.9)];
    const ground = onGround([east, west], 1000);
    expect(ground.at(west).x - ground.at(east).x).toBeCloseTo(1000, 6);
    expect(ground.width / ground.unitsPerKm).toBeCloseTo(0.2 * 111.32, 6);
  });
  it("one place alone, or several in one place, stand without a scale of nothing", () => {
    const ground = onGround([place(47, 15), place(47, 15)], 1000);
    expect(ground.at(place(47, 15))).toEqual({ x: 0, y: 0 });
    expect(ground.unitsPerKm).toBe(1000);
  });
  it("no place ever lies outside", () => {
    const anywhere = fc.tuple(
      fc.double({ min: -80, max: 80, noNaN: true }),
      fc.double({ min: -60, max: 60, noNaN: true }),
    );
    fc.assert(
      fc.property(fc.array(anywhere, { minLength: 1, maxLength: 30 }), (all) => {
        const places = all.map(([lat, lon]) => place(lat, lon));
        const ground = onGround(places, 1000);
        for (const p of places) {
          const { x, y } = ground.at(p);
          expect(x).toBeGreaterThanOrEqual(-1e-6);
          expect(y).toBeGreaterThanOrEqual(-1e-6);
          expect(x).toBeLessThanOrEqual(ground.width + 1e-6);
          expect(y).toBeLessThanOrEqual(ground.height + 1e-6);
        }
      }),
    );
  });
});

describe("what is written on it", () => {
  it("a round distance is the longest that fits", () => {
    expect([1, 1.9, 2, 4.99, 7, 10, 160, 0.3].map(roundDistance)).toEqual([1, 1, 2, 2, 5, 10, 100, 0.2]);
  });
  it("of words that would lie on each other the first is shown", () => {
    const at = (id: string, x: number, y: number) => ({ id, x, y, width: 50 });
    expect([...wordsThatFit([at("a", 0, 0), at("b", 30, 5), at("c", 60, 0), at("d", 30, 40)], 30)]).toEqual([
      "a",
      "c",
      "d",
    ]);
  });
});
