import { describe, expect, it } from "vitest";
import { z } from "zod";
import { AppError, badFile, normalise } from "./app-error.ts";

describe("errors that leave the server", () => {
  it("carry a closed code, a status and words, and no SQL or stack", () => {
    const unique = Object.assign(new Error('insert into "site" … duplicate key'), {
      code: "23505",
      constraint: "site_file_id",
    });
    const seen = normalise(unique);
    expect([seen.code, seen.status]).toEqual(["conflict", 409]);
    expect(seen.message).not.toContain("insert");
    expect(normalise(new Error("boom at /srv/x.ts")).message).not.toContain("boom");
    expect(normalise(new Error("boom")).status).toBe(500);
    expect(normalise(Object.assign(new Error(), { code: "40001" })).status).toBe(503);
    expect(normalise(Object.assign(new Error(), { code: "22P02" })).status).toBe(400);
  });
  it("name the place in a bad request and in a bad file", () => {
    const parsed = z.object({ a: z.object({ b: z.number() }) }).safeParse({ a: { b: "x" } });
    expect(normalise(parsed.error).details).toEqual({ path: "a.b" });
    expect(
      badFile([
        { code: "shape", path: "x", message: "First." },
        { code: "shape", path: "y", message: "Second." },
      ]),
    ).toMatchObject({ status: 422, message: "First. (1 more)" });
    const kept = new AppError("notFound", "Gone.");
    expect(normalise(kept)).toBe(kept);
  });
});
