import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";

const API = join(import.meta.dirname, "../app/api");

/** Every route of the server, read from its files: its gate, and the lowest role that passes it. */
export type RouteOf = { path: string; method: string; gate: string; least: string };

export const routes: RouteOf[] = readdirSync(API, { recursive: true, encoding: "utf8" })
  .filter((f) => f.endsWith("route.ts"))
  .flatMap((file) => {
    const text = readFileSync(join(API, file), "utf8");
    return [...text.matchAll(/export const (GET|POST|DELETE|PUT|PATCH)\b[^=]*= (\w+)(?:<[^(]*>)?\(\s*"?(\w+)?/g)].map(
      (m) => ({
        path: `/api/${file.replace(/\/?route\.ts$/, "")}`,
        method: m[1] as string,
        gate: m[2] as string,
        least: m[3] as string,
      }),
    );
  });

/** Where nobody is signed in yet. */
export const OPEN: ReadonlySet<string> = new Set(["/api/session", "/api/joining/[token]", "/api/calendar/[secret]"]);
