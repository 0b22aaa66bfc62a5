import { describe, expect, it } from "vitest";
import { ABILITIES } from "../contracts/roles.ts";
import { OPEN, routes } from "./routes.ts";

describe("what each role may do", () => {
  const said = ABILITIES.flatMap(({ least, routes: of }) => of.map((route) => ({ route, least })));
  it("is said of every route, once, and is what its gate asks", () => {
    const asked = routes
      .filter((r) => !OPEN.has(r.path))
      .map(({ method, path, least }) => ({ route: `${method} ${path}`, least }));
    const byRoute = (a: { route: string }, b: { route: string }): number => a.route.localeCompare(b.route);
    expect([...said].sort(byRoute)).toEqual([...asked].sort(byRoute));
  });
  it("is told in words of its own, from what the least may to what only managers may", () => {
    expect(new Set(ABILITIES.map((a) => a.words)).size).toBe(ABILITIES.length);
    const rank = ABILITIES.map((a) => ["viewer", "technician", "manager"].indexOf(a.least));
    expect(rank).toEqual([...rank].sort());
  });
});
